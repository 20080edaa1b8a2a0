#pragma once
// Structures of ZIP files, with the sections of the format's application note that define them.

#include <string_view>

#include "base/bytes.hpp"

namespace undershelf::content {

using namespace std::string_view_literals;
using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;

inline constexpr auto member_mark = "PK\3\4"sv, directory_mark = "PK\1\2"sv, end_mark = "PK\5\6"sv,
                      end64_mark = "PK\6\6"sv, locator64_mark = "PK\6\7"sv, descriptor_mark = "PK\7\10"sv;

/// Section 4.3.7, after its signature.
struct LocalHead {
    little_uint16_buf_t version, flags, method, time, date;
    little_uint32_buf_t crc, compressed_size, size;
    little_uint16_buf_t name_length, extra_length;
};
/// Section 4.3.12, after its signature.
struct DirectoryHead {
    little_uint16_buf_t made_by, version, flags, method, time, date;
    little_uint32_buf_t crc, compressed_size, size;
    little_uint16_buf_t name_length, extra_length, comment_length, disk, internal;
    little_uint32_buf_t external, offset;
};
/// Section 4.3.16, after its signature.
struct EndRecord {
    little_uint16_buf_t disk, directory_disk, entries_here, entries;
    little_uint32_buf_t directory_size, directory_offset;
    little_uint16_buf_t comment_length;
};
constexpr std::uint16_t encrypted = 1, sizes_follow = 8;
constexpr std::uint16_t stored = 0, deflated = 8;

}  // namespace undershelf::content
