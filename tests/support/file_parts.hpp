#pragma once
// What the makers of small files share.

#include <zlib.h>

#include <string_view>

#include "base/bytes.hpp"
#include "support/disk_image.hpp"

namespace undershelf::test {

inline void append(ByteVector& out, std::string_view text) {
    out.insert(out.end(), text.begin(), text.end());
}
inline void append(ByteVector& out, const ByteVector& bytes) {
    out.insert(out.end(), bytes.begin(), bytes.end());
}
inline void append_number(ByteVector& out, std::uint64_t value, int size, bool big_endian = false) {
    const auto at = out.size();
    out.resize(at + static_cast<std::size_t>(size));
    put_number(out, at, value, size, big_endian);
}
inline std::uint32_t crc_of(const ByteVector& bytes) {
    return static_cast<std::uint32_t>(crc32(0, bytes.data(), static_cast<uInt>(bytes.size())));
}

inline ByteVector deflated(const ByteVector& content, int window_bits) {
    z_stream z{};
    deflateInit2(&z, 6, Z_DEFLATED, window_bits, 8, Z_DEFAULT_STRATEGY);
    ByteVector out(deflateBound(&z, content.size()) + 64);
    z.next_in = const_cast<Bytef*>(content.data());
    z.avail_in = static_cast<uInt>(content.size());
    z.next_out = out.data();
    z.avail_out = static_cast<uInt>(out.size());
    deflate(&z, Z_FINISH);
    out.resize(z.total_out);
    deflateEnd(&z);
    return out;
}

}  // namespace undershelf::test
