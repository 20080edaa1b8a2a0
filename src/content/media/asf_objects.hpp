#pragma once
// The objects of an ASF file (Advanced Systems Format Specification 1.20.03, 2), and what those in its header
// say of it.

#include <optional>
#include <string>
#include <string_view>

#include "content/dates.hpp"
#include "content/details.hpp"

namespace undershelf::content::asf {

using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;
using boost::endian::little_uint64_buf_t;
using namespace std::string_view_literals;

// GUIDs as they are on disk.
constexpr auto header_object = "\x30\x26\xb2\x75\x8e\x66\xcf\x11\xa6\xd9\x00\xaa\x00\x62\xce\x6c"sv;
constexpr auto data_object = "\x36\x26\xb2\x75\x8e\x66\xcf\x11\xa6\xd9\x00\xaa\x00\x62\xce\x6c"sv;
constexpr auto content_description = "\x33\x26\xb2\x75\x8e\x66\xcf\x11\xa6\xd9\x00\xaa\x00\x62\xce\x6c"sv;
constexpr auto file_properties = "\xa1\xdc\xab\x8c\x47\xa9\xcf\x11\x8e\xe4\x00\xc0\x0c\x20\x53\x65"sv;
constexpr auto stream_properties = "\x91\x07\xdc\xb7\xb7\xa9\xcf\x11\x8e\xe6\x00\xc0\x0c\x20\x53\x65"sv;
constexpr auto audio_media = "\x40\x9e\x69\xf8\x4d\x5b\xcf\x11\xa8\xfd\x00\x80\x5f\x5c\x44\x2b"sv;
constexpr auto simple_index = "\x90\x08\x00\x33\xb1\xe5\xcf\x11\x89\xf4\x00\xa0\xc9\x03\x49\xcb"sv;

struct ObjectHead {
    char guid[16];
    little_uint64_buf_t size;  ///< bytes, this head among them
    std::string_view id() const { return {guid, sizeof guid}; }
};
struct HeaderHead {
    ObjectHead object;
    little_uint32_buf_t objects;
    std::uint8_t reserved1, reserved2;
};
struct FileProperties {
    ObjectHead object;
    char file_id[16];
    little_uint64_buf_t file_size, creation_date, packets, play_duration, send_duration, preroll;
    little_uint32_buf_t flags, least_packet, most_packet, bitrate;
};
static_assert(sizeof(FileProperties) == 104);
/// An object: `end` is where it ends.
struct Object {
    std::string id;
    std::uint64_t at = 0, size = 0;
    std::uint64_t end() const { return at + size; }
};
/// Nothing when none is there.
std::optional<Object> object_at(Content& content, std::uint64_t at);

std::string title(Content& content);
InnerDates dates(Content& content);
/// How long it plays: without what is only buffered.
ContentDetails details(Content& content);
/// The usual one: `wma` where it has sounds alone.
std::string_view extension(Content& content);

}  // namespace undershelf::content::asf
