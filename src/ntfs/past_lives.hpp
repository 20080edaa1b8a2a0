#pragma once
// What the journals tell of files, put together: one life of a record, with all the names it had.

#include <map>
#include <vector>

#include "ntfs/mention.hpp"

namespace undershelf::ntfs {

class PastLives {
  public:
    struct KnownName {
        Reference folder;
        std::u16string name;
        MaybeTime when;
        bool operator==(const KnownName& o) const { return folder == o.folder && name == o.name; }
    };
    struct Life {
        std::vector<KnownName> names;  ///< in the order they were told first
        std::size_t last = 0;          ///< which of them it had last
        bool is_dir = false;
        MaybeTime deleted, created, modified;
        std::uint64_t size = 0, source = 0;  ///< bytes
    };

    void take(Mention&& mention);
    /// Nothing when no journal tells of it.
    const Life* find(const Reference& file) const;
    const std::map<Reference, Life>& all() const { return lives_; }
    /// True when there were more lives than are kept.
    bool full() const { return full_; }

  private:
    std::map<Reference, Life> lives_;
    bool full_ = false;
};

}  // namespace undershelf::ntfs
