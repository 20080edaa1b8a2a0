#pragma once
// Which names of which folders have been told already, so that leftovers do not tell them again. Holds 16
// bytes a name.

#include <unordered_set>
#include <vector>

#include "ntfs/file_info.hpp"

namespace undershelf::ntfs {

/// By what a name in a folder is known again: the folder's record and the name, with its time of creation and
/// without.
struct NamePrint {
    std::uint64_t dated = 0, undated = 0;
};
NamePrint name_print(std::uint64_t folder, const Name& name);

class ToldNames {
  public:
    /// Told by a record. To be called before anything is asked; equal names mostly come in a row.
    void add_recorded(const NamePrint& print);
    /// Told by something else than a record. False when it had been told before, by whomever. A name whose
    /// time of creation is not known counts as told when any of that name was.
    bool add(const NamePrint& print, bool is_dated);
    /// Has something else than a record told of it?
    bool has_other(const NamePrint& print) const { return other_dated_.count(print.dated) > 0; }
    /// Has a record told of it?
    bool has_recorded(const NamePrint& print, bool is_dated);

  private:
    std::vector<std::uint64_t> dated_, undated_;  ///< of records; sorted when first asked
    bool sorted_ = false;
    std::unordered_set<std::uint64_t> other_dated_, other_undated_;
};

}  // namespace undershelf::ntfs
