#include "shelf/traces.hpp"

#include <algorithm>
#include <limits>

#include "shelf/blobs.hpp"

namespace undershelf {

void ShelfTraces::visit(std::uint32_t kind, const ByteRange& where,
                        const std::function<bool(const Trace&)>& visit) const {
    // Offsets of sources fit into 63 bits.
    constexpr std::uint64_t last = std::numeric_limits<std::int64_t>::max();
    const auto end = where.length > last - std::min(where.offset, last) ? last : where.end();
    SQLite::Statement q(db_,
                        "SELECT offset, a, b, data FROM traces WHERE family = ? AND kind = ? AND offset >= ? "
                        "AND offset < ? ORDER BY offset");
    q.bind(1, family_);
    q.bind(2, kind);
    q.bind(3, static_cast<std::int64_t>(std::min(where.offset, last)));
    q.bind(4, static_cast<std::int64_t>(end));
    Trace trace;
    trace.kind = kind;
    while (q.executeStep()) {
        trace.offset = static_cast<std::uint64_t>(q.getColumn(0).getInt64());
        if (left_out_.contains(trace.offset)) continue;
        trace.a = static_cast<std::uint64_t>(q.getColumn(1).getInt64());
        trace.b = static_cast<std::uint64_t>(q.getColumn(2).getInt64());
        const auto data = blob_in(q, 3);
        trace.data.assign(data.begin(), data.end());
        if (!visit(trace)) return;
    }
}

}  // namespace undershelf
