#include "content/archive/zip_heads.hpp"

#include <zlib.h>

#include <algorithm>

namespace undershelf::content {

namespace {

constexpr std::uint32_t elsewhere = 0xFFFFFFFF;  ///< the number is in the record for long files
constexpr unsigned highest_version = 63;

}  // namespace

std::uint32_t crc32_of(Bytes bytes) {
    return static_cast<std::uint32_t>(::crc32(0, bytes.data(), static_cast<uInt>(bytes.size())));
}

ZipExtra zip_extra_of(Bytes extra) {
    constexpr std::uint16_t timestamps = 0x5455;  // flags, then the dates that they speak of
    // Room for a head to grow (ECMA-376, part 2, annex C): a mark, a length, and zeros.
    constexpr std::uint16_t growth = 0xA220, growth_mark = 0xA028;
    const auto length_of_all = static_cast<std::uint16_t>(extra.size());
    ZipExtra out{crc32_of(extra), {}, length_of_all, length_of_all};
    for (std::size_t at = 0; at + 4 <= extra.size();) {
        const auto id = load<little_uint16_buf_t>(extra, at)->value();
        const std::size_t length = load<little_uint16_buf_t>(extra, at + 2)->value();
        if (id == timestamps && length >= 5 && at + 9 <= extra.size())
            out.modified = load<little_uint32_buf_t>(extra, at + 5)->value();
        if (id == growth && length >= 4 && at + 4 + length <= extra.size()) {
            out.sound = load<little_uint16_buf_t>(extra, at + 4)->value() == growth_mark &&
                        all_zero(extra.subspan(at + 8, length - 4));
            out.uncovered -= static_cast<std::uint16_t>(2 + length);
        }
        at += 4 + length;
    }
    return out;
}

void ZipHeads::add(const ZipKnown& member, const LocalHead& head, bool large) {
    constexpr std::uint16_t known_flags = 0x080F;  // encrypted, two of the method, sizes that follow, UTF-8
    const bool follow = head.flags.value() & sizes_follow;
    const auto says = [&](std::uint32_t told, const std::optional<std::uint64_t>& is) {
        return !is || told == *is || (large && told == elsewhere) || (follow && told == 0);
    };
    expect(head.version.value() <= highest_version && !(head.flags.value() & ~known_flags) &&
           says(head.compressed_size.value(), member.packed) && says(head.size.value(), member.size) &&
           says(head.crc.value(), member.crc) && member.extra.sound);
    if (known_.size() < most_known) known_.push_back(member);
}

bool ZipHeads::knows(const DirectoryHead& head, Bytes name, Bytes extra) {
    // Of who made it and its attributes two bytes may be anything.
    uncovered_ += 2 + std::uint64_t{head.comment_length.value()};
    const auto it =
        std::lower_bound(known_.begin(), known_.end(), head.offset.value(),
                         [](const ZipKnown& k, std::uint64_t offset) { return k.offset < offset; });
    if (head.offset.value() == elsewhere || (it == known_.end() && known_.size() == most_known)) {
        uncovered_ += sizeof(DirectoryHead) + extra.size();
        return true;
    }
    if (it == known_.end() || it->offset != head.offset.value() || it->method != head.method.value() ||
        it->name != crc32_of(name) || (it->crc && *it->crc != head.crc.value()) ||
        (head.compressed_size.value() != elsewhere && it->packed != head.compressed_size.value()))
        return false;
    look_at(head, *it, extra);
    return true;
}

/// Sections 4.4.2, 4.4.14 and 4.4.15: systems are numbered, modes of files are of few types.
void ZipHeads::look_at(const DirectoryHead& head, const ZipKnown& known, Bytes extra) {
    constexpr unsigned last_system = 19, unix_system = 3, mac_system = 19;
    constexpr unsigned last_dos_attributes = 0x3F;
    const unsigned system = head.made_by.value() >> 8, version = head.made_by.value() & 0xFF;
    const auto type = head.external.value() >> 28, attributes = head.external.value() & 0xFFFF;
    const bool has_mode = system == unix_system || system == mac_system;
    const bool mode =
        has_mode ? type == 0 || type == 4 || type == 8 || type == 10 : head.external.value() >> 16 == 0;
    const auto size = head.size.value();
    expect(head.version.value() == known.version && head.flags.value() == known.flags &&
           head.time.value() == known.time && head.date.value() == known.date &&
           (size == elsewhere || !known.size || size == *known.size) && system <= last_system &&
           version <= highest_version && head.disk.value() == 0 && head.internal.value() <= 3 && mode &&
           attributes <= last_dos_attributes);
    const auto here = zip_extra_of(extra);
    if (here.print == known.extra.print && here.length == known.extra.length) return;
    const bool dated = here.modified && known.extra.modified;
    // Where the two are meant to differ, they differ in length.
    expect(here.length != known.extra.length && (!dated || *here.modified == *known.extra.modified));
    uncovered_ += std::uint64_t{here.uncovered} + known.extra.uncovered - (dated ? 2 * 4 : 0);
}

void ZipHeads::end(const EndRecord& record, std::uint64_t start, std::uint64_t end, std::uint64_t listed) {
    const auto says = [](std::uint32_t told, std::uint64_t is) { return told == elsewhere || told == is; };
    expect(record.disk.value() == 0 && record.directory_disk.value() == 0 &&
           (record.entries_here.value() == 0xFFFF || record.entries_here.value() == (listed & 0xFFFF)) &&
           says(record.directory_size.value(), end - start) && says(record.directory_offset.value(), start));
}

}  // namespace undershelf::content
