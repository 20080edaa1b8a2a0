#include "fat/traces.hpp"

#include "clusters/fat_stretch.hpp"
#include "fat/directory.hpp"

namespace undershelf::fat {

namespace {

constexpr std::size_t sector = 512;

/// Could the first slot of a sector be one? Asked of every sector of a source.
bool may_be_slots(const std::uint8_t* s) {
    if (s[0] == slot_end || s[11] & 0xC0) return false;
    const bool long_name = (s[11] & ATTR_LONG_NAME_MASK) == ATTR_LONG_NAME;
    return long_name ? s[12] == 0 && s[26] == 0 && s[27] == 0
                     : s[0] >= kanji_e5 && (s[12] & ~0x18) == 0 && s[13] <= 199;
}

/// Short entries among the slots, and how many of them name folders.
struct Count {
    std::uint64_t entries = 0, folders = 0;
};
Count count_entries(Bytes slots) {
    Count out;
    for (std::size_t at = 0; at + slot_size <= slots.size() && slots[at] != slot_end; at += slot_size) {
        const auto e = *load<DirEntry>(slots, at);
        if ((e.DIR_Attr & ATTR_LONG_NAME_MASK) == ATTR_LONG_NAME || (e.DIR_Attr & ATTR_VOLUME_ID)) continue;
        ++out.entries;
        out.folders += (e.DIR_Attr & ATTR_DIRECTORY) != 0;
    }
    return out;
}

}  // namespace

void find_traces(const SweepBuffer& buffer, TraceSink& sink) {
    for (std::size_t at = (sector - buffer.offset % sector) % sector;
         at < buffer.owned && at + sector <= buffer.bytes.size(); at += sector) {
        const auto bytes = buffer.bytes.subspan(at, sector);
        if (bytes[0] == '.') {
            if (!begins_with_dots(bytes)) continue;
            const auto own = start_cluster(*load<DirEntry>(bytes), Width::fat32);
            if (own >= 2)
                sink.trace({folder_trace,
                            buffer.offset + at,
                            own,
                            start_cluster(*load<DirEntry>(bytes, slot_size), Width::fat32),
                            {}});
        } else if (may_be_slots(bytes.data()) && looks_like_slots(bytes)) {
            const auto count = count_entries(bytes);
            if (count.entries) sink.trace({slots_trace, buffer.offset + at, count.folders, 0, {}});
        }
    }
    for (const auto& stretch : clusters::find_fat_stretches(buffer, 0x0FFFFFFF, {32, 16, 12}))
        sink.trace(clusters::trace_of(stretch, table_trace));
}

}  // namespace undershelf::fat
