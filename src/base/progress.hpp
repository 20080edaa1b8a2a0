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
    /// What at() counts from here on to the next stage is bytes.
    virtual void counts_bytes() {}
    /// So many entries have been found so far.
    virtual void found(std::uint64_t /*entries*/) {}
    /// So many of them are of the kinds that somebody asked for first.
    virtual void wanted(std::uint64_t /*files*/) {}
    /// A sweep has found so many traces so far.
    virtual void traces(std::uint64_t /*found*/) {}
    /// So many bytes of a source cannot be read, and so many were leapt over until now.
    virtual void trouble(std::uint64_t /*unreadable*/, std::uint64_t /*leapt*/) {}
    /// True once the work should end and keep what it has.
    virtual bool stopped() const { return false; }
    /// Asked by stages that are long, and half of which is worth something: true once the stage should end,
    /// and the work go on with what it has found.
    virtual bool enough() { return stopped(); }
};

}  // namespace undershelf
