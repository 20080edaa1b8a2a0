#pragma once
// Blobs of the shelf's tables, for the writer's own files alone.

#include <SQLiteCpp/SQLiteCpp.h>

#include "base/bytes.hpp"
#include "base/timestamp.hpp"

namespace undershelf {

/// Points into the row that the query is at.
inline Bytes blob_in(SQLite::Statement& q, int column) {
    const auto c = q.getColumn(column);
    return {static_cast<const std::uint8_t*>(c.getBlob()), static_cast<std::size_t>(c.getBytes())};
}

/// `bytes` must live until the statement has run. SQLite takes a null pointer for NULL.
inline void bind_blob(SQLite::Statement& s, int index, const ByteVector& bytes) {
    s.bindNoCopy(index, bytes.empty() ? static_cast<const void*>("") : bytes.data(),
                 static_cast<int>(bytes.size()));
}

inline void bind_time(SQLite::Statement& s, int index, const MaybeTime& t) {
    if (t) {
        s.bind(index, t->ticks);
    } else {
        s.bind(index);
    }
}
/// `text` must live until the statement has run.
inline void bind_optional_text(SQLite::Statement& s, int index, const std::string& text) {
    if (text.empty()) {
        s.bind(index);
    } else {
        s.bindNoCopy(index, text);
    }
}

}  // namespace undershelf
