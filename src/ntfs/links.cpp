#include "ntfs/links.hpp"

#include <algorithm>
#include <string_view>

#include "base/text.hpp"
#include "ntfs/structures.hpp"

namespace undershelf::ntfs {

namespace {

constexpr std::uint32_t IO_REPARSE_TAG_MOUNT_POINT = 0xA0000003, IO_REPARSE_TAG_SYMLINK = 0xA000000C,
                        IO_REPARSE_TAG_LX_SYMLINK = 0xA000001D, IO_REPARSE_TAG_NFS = 0x80000014,
                        IO_REPARSE_TAG_DEDUP = 0x80000013, IO_REPARSE_TAG_WOF = 0x80000017;
constexpr std::uint64_t NFS_SPECFILE_LNK = 0x014B4E4C;
/// Tag, length of what follows, and a reserved field.
constexpr std::size_t head_size = 8;

std::string utf8_of_units(Bytes bytes) {
    return utf8_from_utf16(utf16_units(bytes));
}

/// One of the two names of a link; `at` is where its offset and length are, `names_at` where names begin.
std::string name_in(Bytes value, std::size_t at, std::size_t names_at) {
    const auto offset = load<little_uint16_buf_t>(value, at),
               length = load<little_uint16_buf_t>(value, at + 2);
    if (!offset || !length || names_at + offset->value() + length->value() > value.size()) return {};
    return utf8_of_units(value.subspan(names_at + offset->value(), length->value()));
}

/// The name that is meant to be shown, or the one that the driver uses, without the prefix that only it
/// needs.
std::string target_of(Bytes value, std::size_t names_at) {
    constexpr std::string_view prefix = "\\??\\";
    const auto substitute = name_in(value, head_size, names_at),
               print = name_in(value, head_size + 4, names_at);
    if (!print.empty()) return print;
    return substitute.starts_with(prefix) ? substitute.substr(prefix.size()) : substitute;
}

}  // namespace

ReparsePoint parse_reparse_point(Bytes value) {
    const auto tag = load<little_uint32_buf_t>(value);
    const auto length = load<little_uint16_buf_t>(value, 4);
    if (!tag || !length || head_size + length->value() > value.size())
        return {"a reparse point that cannot be read", {}};
    value = value.first(head_size + length->value());
    switch (tag->value()) {
        case IO_REPARSE_TAG_SYMLINK:
            return {"a symbolic link", target_of(value, head_size + 12)};
        case IO_REPARSE_TAG_MOUNT_POINT:
            return {"a junction", target_of(value, head_size + 8)};
        case IO_REPARSE_TAG_LX_SYMLINK: {
            // A version, and the target in UTF-8.
            const auto target = value.subspan(std::min(value.size(), head_size + 4));
            return {"a symbolic link of a Linux subsystem",
                    composed({reinterpret_cast<const char*>(target.data()), target.size()})};
        }
        case IO_REPARSE_TAG_NFS: {
            const auto type = load<little_uint64_buf_t>(value, head_size);
            if (!type || type->value() != NFS_SPECFILE_LNK) return {"a special file of an NFS server", {}};
            return {"a symbolic link of an NFS server", utf8_of_units(value.subspan(head_size + 8))};
        }
        case IO_REPARSE_TAG_DEDUP:
            return {"deduplicated: its content is elsewhere, in a store this version does not read", {}};
        case IO_REPARSE_TAG_WOF:
            return {"system-compressed: its content is packed in the stream WofCompressedData", {}};
        default:
            return {"a reparse point of another kind", {}};
    }
}

std::optional<std::string> stored_link(Bytes content) {
    constexpr std::string_view mark{"IntxLNK\x01", 8};
    if (content.size() <= mark.size() || content.size() > most_stored_link_bytes ||
        !std::equal(mark.begin(), mark.end(), content.begin()))
        return std::nullopt;
    return utf8_of_units(content.subspan(mark.size()));
}

}  // namespace undershelf::ntfs
