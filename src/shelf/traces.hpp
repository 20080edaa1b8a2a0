#pragma once
// The traces that a sweep put into a shelf.

#include <SQLiteCpp/SQLiteCpp.h>

#include <string>

#include "volume/trace.hpp"

namespace undershelf {

/// Of one file system's family, without those that are in `left_out`.
class ShelfTraces final : public TraceStore {
  public:
    /// `db` and `left_out` must outlive it.
    ShelfTraces(SQLite::Database& db, std::string_view family, const RangeSet& left_out)
        : db_(db), family_(family), left_out_(left_out) {}
    void visit(std::uint32_t kind, const ByteRange& where,
               const std::function<bool(const Trace&)>& visit) const override;

  private:
    SQLite::Database& db_;
    std::string family_;
    const RangeSet& left_out_;
};

}  // namespace undershelf
