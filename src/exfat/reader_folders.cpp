// By what folders whose own entry, or whose chain, is gone are found and followed.

#include <algorithm>

#include "base/text.hpp"
#include "exfat/reader.hpp"

namespace undershelf::exfat {

namespace {
constexpr std::uint64_t looked_at = 2 * 19 * 32;  ///< bytes: the rest of a set, and the longest one after it
}  // namespace

// Folders whose own entry is gone.

Reader::Look Reader::look_at(Cluster cluster, Bytes first) const {
    // A look at one type turns nearly everything away before more of the cluster is read. A folder's second
    // cluster may begin in the middle of a set.
    const auto kind = static_cast<std::uint8_t>(first[0] & ~in_use_bit);
    const auto next = static_cast<std::uint8_t>(first[32] & ~in_use_bit);
    if (!(kind == type_file && next == type_stream) && !(kind == type_stream && next == type_name) &&
        !(kind == type_name && (next == type_name || next == type_file || next == 0)))
        return {};
    const auto range = grid_.range({cluster, 1});
    const auto head = source_.read_vector({range.offset, std::min<std::uint64_t>(range.length, looked_at)});
    const auto at = first_sound_set(head);
    if (!at) return {kind == type_file ? Part::none : Part::rest, 0};
    return {*at == 0 ? Part::any : Part::tail, 0};
}

// Where folders go on.

Listing Reader::listing_of(Cluster cluster) const {
    return parse_folder(FolderBytes(source_, {grid_.range({cluster, 1})}));
}

Reader::Named Reader::named_by(const EntrySet& set) const {
    const auto start = set.stream.FirstCluster.value();
    return {grid_.holds(start) ? start : 0, grid_.clusters_for(set.stream.DataLength.value()), set.is_dir()};
}

Reader::Edge Reader::edge(Cluster cluster) const {
    const auto range = grid_.range({cluster, 1});
    const auto length = std::min<std::uint64_t>(range.length, looked_at);
    const auto begin = source_.read_vector({range.offset, length});
    const auto end = source_.read_vector({range.end() - length, length});
    Edge out;
    // An end mark (section 6.2.1) is the last entry.
    out.ends = end[end.size() - FolderBytes::slot_size] == 0;
    out.left_open = static_cast<std::uint32_t>(open_set(end));
    const auto at = first_sound_set(begin);
    if (const auto first = at ? sound_set(Bytes(begin).subspan(*at)) : std::nullopt) {
        out.first = named_by(*first);
        out.first_birth = birth_of(*first);
    }
    const auto listing = listing_of(cluster);
    for (auto set = listing.sets.rbegin(); set != listing.sets.rend() && !out.last; ++set) {
        if (set->after_end) continue;
        if (out.last_birth == 0) out.last_birth = birth_of(*set);
        if (const auto named = named_by(*set); named.start) out.last = named;
    }
    return out;
}

/// A set that begins in one cluster and verifies with the other's first slots ties the two together, wherever
/// they are.
Reader::Tie Reader::tie(Cluster before, Cluster after) const {
    const auto first = grid_.range({before, 1}), second = grid_.range({after, 1});
    const auto length = std::min<std::uint64_t>(first.length, looked_at);
    const auto goes_on = set_goes_on(source_.read_vector({first.end() - length, length}),
                                     source_.read_vector({second.offset, length}));
    return !goes_on ? Tie::none : *goes_on ? Tie::certain : Tie::contradicts;
}

std::vector<std::string> Reader::names_in(Cluster cluster) const {
    std::vector<std::string> out;
    for (const auto& set : listing_of(cluster).sets) {
        if (!set.after_end && set.checksum_holds) out.push_back(utf8_from_utf16(set.name));
    }
    return out;
}

std::vector<Cluster> Reader::folders_named_in(Cluster cluster) const {
    std::vector<Cluster> out;
    for (const auto& set : listing_of(cluster).sets) {
        if (set.is_dir() && set.checksum_holds) out.push_back(set.stream.FirstCluster.value());
    }
    return out;
}

}  // namespace undershelf::exfat
