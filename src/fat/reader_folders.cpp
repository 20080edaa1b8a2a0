// By what folders whose own entry, or whose chain, is gone are found and followed.

#include <algorithm>
#include <cctype>

#include "base/text.hpp"
#include "fat/reader.hpp"

namespace undershelf::fat {

ByteVector Reader::cluster_bytes(Cluster c) const {
    return source_.read_vector(grid_.range({c, 1}));
}

Reader::Look Reader::look_at(Cluster cluster, Bytes first) const {
    if (begins_with_dots(first)) {
        if (start_cluster(*load<DirEntry>(first), geometry_.width) != cluster) return {};
        return {Part::head, start_cluster(*load<DirEntry>(first, slot_size), geometry_.width)};
    }
    // A look at one slot turns nearly everything away before the whole cluster is read.
    if (!looks_like_slots(first.first(slot_size)) || !looks_like_slots(cluster_bytes(cluster))) return {};
    return {Part::any, 0};
}

namespace {
const LongNameEntry* long_slot(Bytes slot) {
    const auto* e = reinterpret_cast<const LongNameEntry*>(slot.data());
    return (e->LDIR_Attr & ATTR_LONG_NAME_MASK) == ATTR_LONG_NAME ? e : nullptr;
}

/// Can slots go on from the end of one cluster to the start of another? A long name that is not
/// finished must go on under its checksum, and one that is finished must not.
bool slots_go_on(Bytes before, Bytes after) {
    const auto* last = long_slot(before.last(slot_size));
    const auto* first = long_slot(after.first(slot_size));
    if (!last) {
        // After a short entry a new name begins: its first slot holds the end of the name.
        if (!first || first->LDIR_Ord == slot_erased) return true;
        return first->LDIR_Ord & LAST_LONG_ENTRY;
    }
    if (first) return first->LDIR_Chksum == last->LDIR_Chksum;
    const auto* name = after.data();
    if (name[0] != slot_erased) return name_checksum(name) == last->LDIR_Chksum;
    // The erased first byte can be solved for; it must come out as something a short name can begin with.
    const auto letter = solve_first_byte(name, last->LDIR_Chksum);
    if (letter == slot_erased) return true;  // worked out once the mark was set: it tells nothing
    if (letter <= 0x20 || (letter >= 'a' && letter <= 'z')) return false;
    // The slot before a short entry has the long name's first letters.
    const unsigned first_letter = last->LDIR_Name1[0].value();
    const bool kept = std::isalnum(static_cast<int>(first_letter < 0x80 ? first_letter : 0)) != 0;
    return !kept || std::toupper(static_cast<int>(first_letter)) == letter;
}
}  // namespace

ByteVector Reader::last_slot(Cluster c) const {
    return source_.read_vector({grid_.offset(c) + grid_.cluster_size - slot_size, slot_size});
}

namespace {
std::int64_t birth_of(const DirEntry& e) {
    return ticks_of(dos_time(e.DIR_CrtDate.value(), e.DIR_CrtTime.value(), e.DIR_CrtTimeTenth, std::nullopt));
}
}  // namespace

Reader::Named Reader::named_by(const DirEntry& e) const {
    const auto start = start_cluster(e, geometry_.width);
    return {grid_.holds(start) ? start : 0, grid_.clusters_for(e.DIR_FileSize.value()),
            (e.DIR_Attr & ATTR_DIRECTORY) != 0};
}

Reader::Edge Reader::edge(Cluster cluster) const {
    const auto bytes = cluster_bytes(cluster);
    Edge out;
    out.ends = bytes[bytes.size() - slot_size] == slot_end;
    for (auto open = bytes.size(); open > 0; open -= slot_size, out.left_open += slot_size) {
        if (!long_slot(Bytes(bytes).subspan(open - slot_size, slot_size))) break;
    }
    if (const auto first = first_entry_in(bytes)) {
        out.first = named_by(*first);
        out.first_birth = birth_of(*first);
    }
    for (std::size_t at = 0; at < bytes.size() && bytes[at] != slot_end; at += slot_size) {
        const auto e = short_entry_at(bytes, at);
        if (!e) continue;
        out.last_birth = birth_of(*e);
        if (const auto named = named_by(*e); named.start) out.last = named;
    }
    return out;
}

/// A long name that begins in one cluster fits a short entry in the other by eight bits of a checksum.
Reader::Tie Reader::tie(Cluster before, Cluster after) const {
    const auto end = last_slot(before);
    if (!slots_go_on(end, source_.read_vector({grid_.offset(after), slot_size}))) return Tie::contradicts;
    return long_slot(end) ? Tie::fits : Tie::none;
}

std::vector<std::string> Reader::names_in(Cluster cluster) const {
    std::vector<std::string> out;
    walk_folder(FolderBytes(source_, {grid_.range({cluster, 1})}), [&](ShortEntry&& slots) {
        if (!slots.after_end && names_something(slots.entry, slots.erased))
            out.push_back(slots.long_name.empty() ? short_name(slots.entry, page_, slots.erased, 0)
                                                  : utf8_from_utf16(slots.long_name));
        return !slots.after_end;
    });
    return out;
}

}  // namespace undershelf::fat
