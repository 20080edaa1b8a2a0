#include "exfat/traces.hpp"

#include <algorithm>

#include "clusters/fat_stretch.hpp"
#include "exfat/entry_set.hpp"

namespace undershelf::exfat {

namespace {

constexpr std::size_t slot = 32, sector = 512;

bool is_up_case(Bytes bytes) {
    for (std::size_t i = 0; i < 32; ++i) {
        if (bytes[2 * i] != i || bytes[2 * i + 1] != 0) return false;
    }
    return true;
}

/// FatEntry[0] is the media byte and ones, FatEntry[1] ones; cluster 2 is in use, by the bitmap mostly.
bool begins_fat(Bytes b) {
    return b[0] == 0xF8 && std::all_of(b.begin() + 1, b.begin() + 8, [](auto x) { return x == 0xFF; }) &&
           load<little_uint32_buf_t>(b, 8)->value() != 0;
}

std::optional<RootTrace> root_at(Bytes bytes) {
    auto bitmap = load<BitmapEntry>(bytes);
    auto up_case = load<UpCaseEntry>(bytes, slot);
    if (!bitmap || !up_case) return std::nullopt;
    if (bitmap->EntryType == type_up_case && up_case->EntryType == type_bitmap) {
        up_case = load<UpCaseEntry>(bytes);
        bitmap = load<BitmapEntry>(bytes, slot);
    }
    if (bitmap->EntryType != type_bitmap || up_case->EntryType != type_up_case) return std::nullopt;
    if (bitmap->BitmapFlags > 1 || !all_zero(bitmap->Reserved) || !all_zero(up_case->Reserved1) ||
        !all_zero(up_case->Reserved2))
        return std::nullopt;
    const auto length = bitmap->DataLength.value();
    if (length == 0 || length > 0x20000000 || bitmap->FirstCluster.value() < 2 ||
        up_case->FirstCluster.value() < 2)
        return std::nullopt;
    return RootTrace{0, bitmap->FirstCluster.value(), up_case->FirstCluster.value(), length};
}

bool begins_root(std::uint8_t first, std::uint8_t second) {
    return (first == type_bitmap && second == type_up_case) ||
           (first == type_up_case && second == type_bitmap);
}

void find_in_slot(const SweepBuffer& buffer, std::size_t at, TraceSink& sink) {
    const auto first = buffer.bytes[at], second = buffer.bytes[at + slot];
    const auto bytes = buffer.bytes.subspan(at);
    if ((first & ~in_use_bit) == type_file && (second & ~in_use_bit) == type_stream) {
        const auto set = sound_set(bytes);
        if (!set) return;
        sink.trace(trace_of(
            SetTrace{buffer.offset + at, set->stream.FirstCluster.value(), set->stream.DataLength.value(),
                     static_cast<std::uint8_t>(set->file.SecondaryCount + 1), set->is_dir(), set->in_use}));
    } else if (begins_root(first, second)) {
        if (auto root = root_at(bytes)) {
            root->offset = buffer.offset + at;
            sink.trace(trace_of(*root));
        }
    }
}

}  // namespace

Trace trace_of(const SetTrace& s) {
    return {set_trace,
            s.offset,
            s.first_cluster | std::uint64_t{s.slots} << 32 | std::uint64_t{s.is_dir} << 40 |
                std::uint64_t{s.in_use} << 41,
            s.length,
            {}};
}

SetTrace set_of(const Trace& t) {
    return {t.offset,
            static_cast<std::uint32_t>(t.a),
            t.b,
            static_cast<std::uint8_t>(t.a >> 32),
            (t.a >> 40 & 1) != 0,
            (t.a >> 41 & 1) != 0};
}

Trace trace_of(const RootTrace& r) {
    return {
        root_trace, r.offset, r.bitmap_cluster | std::uint64_t{r.up_case_cluster} << 32, r.bitmap_length, {}};
}

RootTrace root_of(const Trace& t) {
    return {t.offset, static_cast<std::uint32_t>(t.a), static_cast<std::uint32_t>(t.a >> 32), t.b};
}

void find_traces(const SweepBuffer& buffer, TraceSink& sink) {
    for (std::size_t at = (slot - buffer.offset % slot) % slot;
         at < buffer.owned && at + 2 * slot <= buffer.bytes.size(); at += slot) {
        find_in_slot(buffer, at, sink);
        if ((buffer.offset + at) % sector != 0) continue;
        if (buffer.bytes[at + 2] == 1 && is_up_case(buffer.bytes.subspan(at)))
            sink.trace({up_case_trace, buffer.offset + at, 0, 0, {}});
        if (begins_fat(buffer.bytes.subspan(at))) sink.trace({fat_head_trace, buffer.offset + at, 0, 0, {}});
    }
    for (const auto& stretch : clusters::find_fat_stretches(buffer, 0xFFFFFFFF, {32}))
        sink.trace(clusters::trace_of(stretch, table_trace));
}

}  // namespace undershelf::exfat
