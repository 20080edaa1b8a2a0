#pragma once
// How long work tells what it is doing, and learns that it should end early.

#include <cstdint>
#include <string_view>

#include "base/error.hpp"

namespace undershelf {

class Progress {
  public:
    virtual ~Progress() = default;
    /// A new stage of the work begins, for example `reading folders`.
    virtual void stage(std::string_view) {}
    /// So much of the stage is done. `total` may grow while the work learns what there is; 0: unknown.
    virtual void at(std::uint64_t /*done*/, std::uint64_t /*total*/) {}
    /// So many entries have been found so far.
    virtual void found(std::uint64_t /*entries*/) {}
    /// True once the work should end and keep what it has.
    virtual bool stopped() const { return false; }
};

}  // namespace undershelf
