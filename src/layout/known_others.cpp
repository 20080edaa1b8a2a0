#include "layout/known_others.hpp"

#include <fmt/format.h>

#include <string_view>

namespace undershelf {

namespace {

using namespace std::string_view_literals;

struct Mark {
    const char* name;
    std::uint64_t at;
    std::string_view bytes;
};

// Each from its own open documentation; the marks are where drivers look for them.
constexpr Mark marks[] = {
    {"XFS", 0, "XFSB"sv},
    {"Btrfs", 65536 + 64, "_BHRfS_M"sv},
    {"APFS", 32, "NXSB"sv},
    {"encrypted volume (LUKS)", 0, "LUKS\xba\xbe"sv},
    {"encrypted volume (BitLocker)", 3, "-FVE-FS-"sv},
    {"ReFS", 3, "ReFS\0\0\0\0"sv},
    {"Linux swap", 4086, "SWAPSPACE2"sv},
    {"Linux LVM", 512, "LABELONE"sv},
    {"SquashFS", 0, "hsqs"sv},
    {"HFS", 1024, "BD"sv},
    {"F2FS", 1024, "\x10\x20\xf5\xf2"sv},
};

bool stands_at(const Source& source, std::uint64_t at, std::string_view bytes) {
    ByteVector there(bytes.size());
    if (!source.read(at, there).empty()) return false;
    return std::equal(there.begin(), there.end(), bytes.begin(),
                      [](std::uint8_t a, char b) { return a == static_cast<std::uint8_t>(b); });
}

Volume unread(const std::string& name, std::uint64_t offset) {
    Volume v;
    v.file_system = name;
    v.offset = v.head_offset = offset;
    v.readable = false;
    v.found_by = "its signature";
    return v;
}

/// The head of ext2, ext3 and ext4 (kernel documentation, "The Super Block"); features tell them apart.
std::optional<Recognition> recognise_ext(const Source& source, std::uint64_t offset) {
    ByteVector head(264);
    if (!source.read(offset + 1024, head).empty() || head[56] != 0x53 || head[57] != 0xEF)
        return std::nullopt;
    const auto number = [&](std::size_t at) {
        return std::uint32_t{head[at]} | std::uint32_t{head[at + 1]} << 8 |
               std::uint32_t{head[at + 2]} << 16 | std::uint32_t{head[at + 3]} << 24;
    };
    const auto block_shift = number(24), compatible = number(92), incompatible = number(96);
    if (block_shift > 6 || number(4) == 0) return std::nullopt;
    constexpr std::uint32_t has_journal = 4, extents = 0x40, wide = 0x80;
    auto v = unread(incompatible & (extents | wide) ? "ext4"
                    : compatible & has_journal      ? "ext3"
                                                    : "ext2",
                    offset);
    v.cluster_size = 1024u << block_shift;
    v.size = std::uint64_t{number(4)} * v.cluster_size;
    const std::string label(reinterpret_cast<const char*>(head.data() + 120), 16);
    v.label = label.substr(0, label.find('\0'));
    return Recognition{std::move(v), {}};
}

/// A compact disc's file system, written to a drive as it is (ECMA-119, section 8.4): its primary volume
/// descriptor is in sector 16 of 2048 bytes, and tells how many blocks it has. What follows it may be of
/// before.
std::optional<Recognition> recognise_iso(const Source& source, std::uint64_t offset) {
    constexpr std::uint64_t descriptor_at = 16 * 2048;
    constexpr std::size_t type_at = 0, space_size_at = 80, block_size_at = 128, head_size = 132;
    constexpr std::uint8_t primary = 1;
    if (!stands_at(source, offset + descriptor_at + 1, "CD001"sv)) return std::nullopt;
    auto v = unread("ISO 9660", offset);
    ByteVector head(head_size);
    if (!source.read(offset + descriptor_at, head).empty() || head[type_at] != primary)
        return Recognition{std::move(v), {}};
    const auto blocks = load<boost::endian::little_uint32_buf_t>(head, space_size_at)->value();
    const std::uint32_t block_size = load<boost::endian::little_uint16_buf_t>(head, block_size_at)->value();
    if (is_power_of_two(block_size) && block_size >= 512 && blocks > descriptor_at / block_size) {
        v.cluster_size = block_size;
        v.size = std::uint64_t{blocks} * block_size;
    }
    return Recognition{std::move(v), {}};
}

}  // namespace

std::optional<Recognition> recognise_other(const Source& source, std::uint64_t offset) {
    if (auto ext = recognise_ext(source, offset)) return ext;
    if (auto iso = recognise_iso(source, offset)) return iso;
    for (const auto& m : marks) {
        if (stands_at(source, offset + m.at, m.bytes)) return Recognition{unread(m.name, offset), {}};
    }
    return std::nullopt;
}

}  // namespace undershelf
