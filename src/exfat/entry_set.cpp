#include "exfat/entry_set.hpp"

#include <unicode/uchar.h>

#include <algorithm>
#include <cstring>

#include "base/text.hpp"

namespace undershelf::exfat {

namespace {

constexpr std::size_t slot = FolderBytes::slot_size;
constexpr std::size_t most_slots = 19;  // a file entry, a stream extension, 17 names of 15 units

std::uint8_t kind_of(std::uint8_t type) {
    return type & ~in_use_bit;
}

void append_name(std::u16string& out, const std::uint8_t* bytes) {
    FileNameEntry e;
    std::memcpy(&e, bytes, sizeof e);
    for (const auto& unit : e.FileName) out += static_cast<char16_t>(unit.value());
}

/// Names are padded with zeros, which are no part of them.
void cut_name(std::u16string& name, std::size_t length) {
    name.resize(std::min(name.size(), length));
    name.resize(std::min(name.size(), name.find(u'\0')));
}

/// The set that starts in `bytes`, whose slots are all of one form. The checksum is worked out over the live
/// form.
std::optional<EntrySet> set_in(Bytes bytes) {
    const bool in_use = bytes[0] & in_use_bit;
    const std::size_t slots = std::size_t{bytes[1]} + 1;
    if (kind_of(bytes[0]) != type_file || slots < 3 || slots > most_slots || bytes.size() < slots * slot)
        return std::nullopt;
    ByteVector live(bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(slots * slot));
    EntrySet out;
    out.in_use = in_use;
    for (std::size_t i = 0; i < slots; ++i) {
        const auto type = live[i * slot];
        const auto expected = i == 0 ? type_file : i == 1 ? type_stream : type_name;
        // Vendor entries after the names are allowed and covered by the checksum.
        const bool name_or_vendor = i >= 2 && (kind_of(type) == type_name || kind_of(type) >= 0x60);
        if ((kind_of(type) != expected && !name_or_vendor) || static_cast<bool>(type & in_use_bit) != in_use)
            return std::nullopt;
        live[i * slot] |= in_use_bit;
        if (i >= 2 && kind_of(type) == type_name) append_name(out.name, live.data() + i * slot);
    }
    out.file = *load<FileEntry>(live);
    out.stream = *load<StreamExtension>(live, slot);
    cut_name(out.name, out.stream.NameLength);
    out.checksum_holds = set_checksum(live) == out.file.SetChecksum.value();
    return out.name.empty() ? std::nullopt : std::optional(std::move(out));
}

/// A stream extension and names whose file entry was written over: the NameHash ties them together. All of
/// one form.
std::optional<EntrySet> headless_in(Bytes bytes) {
    const auto form = static_cast<std::uint8_t>(bytes[0] & in_use_bit);
    EntrySet out;
    out.stream = *load<StreamExtension>(bytes);
    const auto names = (std::size_t{out.stream.NameLength} + 14) / 15;
    if (names == 0 || names > 17 || bytes.size() < (names + 1) * slot) return std::nullopt;
    for (std::size_t i = 1; i <= names; ++i) {
        if (bytes[i * slot] != (type_name | form)) return std::nullopt;
        append_name(out.name, bytes.data() + i * slot);
    }
    cut_name(out.name, out.stream.NameLength);
    if (out.name.size() != out.stream.NameLength || name_hash(out.name) != out.stream.NameHash.value())
        return std::nullopt;
    out.in_use = false;
    out.headless = true;
    return out;
}

class FolderParser {
  public:
    explicit FolderParser(const FolderBytes& folder) : folder_(folder) {}

    Listing run() {
        for (std::size_t i = 0; i < folder_.slots();) i += step(i);
        out_.leftovers |= !out_.fragments.empty();
        return std::move(out_);
    }

  private:
    /// The slots from `i` on that can be read without a gap, at most a set's.
    Bytes readable_from(std::size_t i) const {
        std::size_t n = 0;
        while (n < most_slots && i + n < folder_.slots() && folder_.readable(i + n)) ++n;
        return {folder_.slot(i), n * slot};
    }

    std::size_t step(std::size_t i) {
        if (!folder_.readable(i)) {
            ++out_.unreadable_slots;
            return 1;
        }
        const auto type = *folder_.slot(i);
        if (type == 0) ended_ = true;
        if (kind_of(type) == type_file) {
            auto set = set_in(readable_from(i));
            if (set && (set->checksum_holds || (set->in_use && !ended_))) {
                const std::size_t slots = std::size_t{set->file.SecondaryCount} + 1;
                keep(std::move(*set), i);
                return slots;
            }
        } else if (type == type_stream || (type == (type_stream | in_use_bit) && out_.sets.empty())) {
            // In its live form only where a folder's cluster begins in the middle of a set.
            if (auto set = headless_in(readable_from(i))) {
                const auto slots = 1 + (set->name.size() + 14) / 15;
                keep(std::move(*set), i);
                return slots;
            }
        } else if (type == type_name) {
            return keep_fragment(i);
        }
        return 1;
    }

    void keep(EntrySet&& set, std::size_t i) {
        set.source_offset = folder_.source_offset(i);
        set.after_end = ended_;
        (ended_ ? out_.leftovers : out_.lost) |= ended_ || !set.in_use;
        out_.sets.push_back(std::move(set));
    }

    std::size_t keep_fragment(std::size_t i) {
        NameFragment fragment{{}, folder_.source_offset(i)};
        std::size_t n = 0;
        while (i + n < folder_.slots() && n < 17 && folder_.readable(i + n) &&
               *folder_.slot(i + n) == type_name)
            append_name(fragment.name, folder_.slot(i + n++));
        cut_name(fragment.name, fragment.name.size());
        if (!fragment.name.empty()) out_.fragments.push_back(std::move(fragment));
        return n;
    }

    const FolderBytes& folder_;
    Listing out_;
    bool ended_ = false;
};

}  // namespace

namespace {
/// The step of both sums: rotated by one to the right, then added to.
std::uint16_t rotated(std::uint16_t sum, unsigned byte) {
    const std::uint32_t wide = sum;
    return static_cast<std::uint16_t>((wide << 15 | wide >> 1) + byte);
}
}  // namespace

std::uint16_t set_checksum(Bytes set) {
    std::uint16_t sum = 0;
    for (std::size_t i = 0; i < set.size(); ++i) {
        if (i == 2 || i == 3) continue;
        sum = rotated(sum, set[i]);
    }
    return sum;
}

std::uint16_t name_hash(std::u16string_view name) {
    std::uint16_t hash = 0;
    for (const char16_t unit : name) {
        const bool surrogate = unit >= 0xD800 && unit < 0xE000;
        const auto upper = surrogate ? unit : static_cast<char16_t>(u_toupper(unit));
        for (const unsigned byte : {upper & 0xFFu, upper >> 8 & 0xFFu}) hash = rotated(hash, byte);
    }
    return hash;
}

MaybeTime timestamp(std::uint32_t stamp, std::uint8_t increment, std::uint8_t utc_offset) {
    const auto field = [&](int shift, unsigned mask) { return static_cast<int>(stamp >> shift & mask); };
    const CivilTime c{1980 + field(25, 127), field(21, 15), field(16, 31),
                      field(11, 31),         field(5, 63),  2 * field(0, 31)};
    if (stamp == 0 || !is_valid(c) || increment > 199) return std::nullopt;
    Timestamp t{seconds_from_civil(c) * Timestamp::per_second + increment * (Timestamp::per_second / 100),
                Timestamp::local};
    if (utc_offset & 0x80) {
        // Seven bits, two's complement, of quarter hours.
        const int quarters = (utc_offset & 0x40) ? (utc_offset & 0x7F) - 128 : utc_offset & 0x7F;
        t.offset_minutes = static_cast<std::int16_t>(quarters * 15);
        t.ticks -= std::int64_t{t.offset_minutes} * 60 * Timestamp::per_second;
    }
    return t;
}

std::int64_t birth_of(const EntrySet& set) {
    if (set.headless) return 0;
    return ticks_of(
        timestamp(set.file.CreateTimestamp.value(), set.file.Create10msIncrement, set.file.CreateUtcOffset));
}

std::optional<std::size_t> first_sound_set(Bytes bytes) {
    for (std::size_t at = 0; at + slot <= bytes.size() && at < most_slots * slot; at += slot) {
        const auto kind = kind_of(bytes[at]);
        if (kind == type_file) {
            const auto set = set_in(bytes.subspan(at));
            return set && set->checksum_holds ? std::optional(at) : std::nullopt;
        }
        if (kind < type_stream) return std::nullopt;  // secondary entries have bit 6 (section 6.2.1)
    }
    return std::nullopt;
}

std::size_t open_set(Bytes end) {
    const auto longest = std::min(end.size(), (most_slots - 1) * slot);
    for (auto left = slot; left <= longest; left += slot) {
        const auto tail = end.last(left);
        if (kind_of(tail[0]) == type_file && (std::size_t{tail[1]} + 1) * slot > left) return left;
    }
    return 0;
}

std::optional<bool> set_goes_on(Bytes before, Bytes after) {
    const auto left = open_set(before);
    if (left == 0) return std::nullopt;
    const auto tail = before.last(left);
    ByteVector joined(tail.begin(), tail.end());
    const auto more = after.first(std::min(after.size(), most_slots * slot));
    joined.insert(joined.end(), more.begin(), more.end());
    const auto set = set_in(joined);
    return set && set->checksum_holds;
}

Listing parse_folder(const FolderBytes& folder) {
    return FolderParser(folder).run();
}

std::optional<EntrySet> sound_set(Bytes bytes) {
    auto set = set_in(bytes);
    return set && set->checksum_holds ? std::move(set) : std::nullopt;
}

Entry basic_entry(const EntrySet& set, const EntryKey& folder) {
    const auto& f = set.file;
    Entry e;
    e.key = {set.source_offset, 0};
    e.parent = folder;
    e.name = utf8_from_utf16(set.name);
    e.is_dir = set.is_dir();
    e.size = e.is_dir ? 0 : set.stream.DataLength.value();
    if (set.headless) {
        e.evidence.push_back({Fact::bad_metadata, 0, 0,
                              "its file entry was written over; name and place are held by the name's hash"});
        return e;
    }
    e.attributes = f.FileAttributes.value() &
                   (attribute::read_only | attribute::hidden | attribute::system | attribute::archive);
    e.created = timestamp(f.CreateTimestamp.value(), f.Create10msIncrement, f.CreateUtcOffset);
    e.modified =
        timestamp(f.LastModifiedTimestamp.value(), f.LastModified10msIncrement, f.LastModifiedUtcOffset);
    e.accessed = timestamp(f.LastAccessedTimestamp.value(), 0, f.LastAccessedUtcOffset);
    if (set.checksum_holds) {
        e.evidence.push_back({Fact::set_checksum, 0, 0, {}});
    } else {
        e.evidence.push_back({Fact::bad_metadata, 0, 0, "the checksum over its entry set fails"});
    }
    return e;
}

}  // namespace undershelf::exfat
