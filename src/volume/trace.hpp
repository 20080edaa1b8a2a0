#pragma once
// What a sweep finds of file systems that are no longer there: single pieces of metadata, each with what it
// says of itself. They are kept in the shelf, so that volumes can be made of them again and again without
// sweeping anew.

#include <cstdint>
#include <functional>

#include "base/byte_range.hpp"
#include "base/bytes.hpp"

namespace undershelf {

/// Kinds of traces that a file system has, numbered from 1.
constexpr std::uint32_t most_trace_kinds = 8;

/// One piece of metadata found by sweeping.
struct Trace {
    std::uint32_t kind = 0;      ///< numbered by its file system
    std::uint64_t offset = 0;    ///< where it is in the source
    std::uint64_t a = 0, b = 0;  ///< what it knows of itself; what that is, its kind tells
    ByteVector data;             ///< and what does not fit into numbers, packed by its file system
    bool operator==(const Trace&) const = default;
};

class TraceSink {
  public:
    virtual ~TraceSink() = default;
    virtual void trace(Trace&& trace) = 0;
};

/// A stretch of a source. Finders report traces that start in the first `owned` bytes, and may read on after
/// them.
struct SweepBuffer {
    Bytes bytes;
    std::uint64_t offset = 0;  ///< of bytes[0] in the source
    std::size_t owned = 0;
};

/// The traces of one file system, as often as they are wanted; there may be millions.
class TraceStore {
  public:
    virtual ~TraceStore() = default;
    /// Hands over the traces of a kind that start in `where`, in the order of the source, until `visit`
    /// returns false.
    virtual void visit(std::uint32_t kind, const ByteRange& where,
                       const std::function<bool(const Trace&)>& visit) const = 0;

    void visit_all(std::uint32_t kind, const std::function<bool(const Trace&)>& each) const {
        visit(kind, {0, ~0ull}, each);
    }
};

/// Where nothing was swept.
class NoTraces final : public TraceStore {
  public:
    void visit(std::uint32_t, const ByteRange&, const std::function<bool(const Trace&)>&) const override {}
};

}  // namespace undershelf
