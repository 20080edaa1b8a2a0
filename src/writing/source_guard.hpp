#pragma once
// Nothing may be written onto the source. Whatever opens something for writing takes one of these, and asks
// it before anything is made.

#include <string>
#include <vector>

#include "writing/storage.hpp"

namespace undershelf {

class SourceGuard {
  public:
    /// For what has no source: nothing is refused.
    static SourceGuard no_source() { return {}; }
    /// `source_path`: an image, the first part of a split one, or a block device. One that is not there has
    /// nothing to be guarded.
    explicit SourceGuard(const std::string& source_path, SystemPlaces places = {});

    /// Throws Error(refused) when writing at `destination` (a file or folder that need not be there yet)
    /// could change the source: the source by any name, what it is made from, or a place on a file system
    /// that is mounted from it.
    void refuse(const std::string& destination) const;

  private:
    SourceGuard() = default;
    std::string source_path_;
    StorageRead source_;
    SystemPlaces places_;
};

}  // namespace undershelf
