#pragma once
// Dates for names that have lost theirs: the names of a numbered series (`cue 01.txt`, `cue 02.txt`) in one
// folder were mostly written together.

#include <map>
#include <optional>
#include <string>

#include "base/timestamp.hpp"

namespace undershelf::ntfs {

class SeriesDates {
  public:
    void add(const std::u16string& name, const MaybeTime& modified);
    struct Argued {
        Timestamp modified;
        std::uint64_t names = 0;  ///< of the series
    };
    /// The date of a name's series, when two names at least have one and all lie within an hour.
    std::optional<Argued> date_of(const std::u16string& name) const;

  private:
    struct Series {
        Timestamp first, last;
        std::uint64_t names = 0;
    };
    std::map<std::u16string, Series> series_;
};

}  // namespace undershelf::ntfs
