#pragma once
// The part of the file system interface that a family leaves out while it is only recognised: its volumes are
// found and described, and not scanned.

#include <fmt/format.h>

#include "base/error.hpp"
#include "volume/file_system.hpp"

namespace undershelf {

class UnreadFileSystem : public FileSystem {
  public:
    std::unique_ptr<VolumeReader> open(const Source&, const Volume& volume,
                                       const ReadOptions&) const override {
        throw Error(Trouble::input,
                    fmt::format("{} volumes are recognised but cannot be scanned by this version.",
                                volume.file_system));
    }
    void find_traces(const SweepBuffer&, TraceSink&) const override {}
    std::vector<Recognition> settle(const Source&, const std::vector<Trace>&) const override { return {}; }
};

}  // namespace undershelf
