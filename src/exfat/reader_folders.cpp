// By what folders whose own entry, or whose chain, is gone are found and followed.

#include <algorithm>

#include "base/text.hpp"
#include "exfat/reader.hpp"

namespace undershelf::exfat {

namespace {
constexpr std::uint64_t looked_at = 2 * 19 * 32;  ///< bytes: the rest of a set, and the longest one behind it
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

namespace {
std::int64_t birth_of(const EntrySet& set) {
    const auto made = set.headless ? MaybeTime()
                                   : timestamp(set.file.CreateTimestamp.value(), set.file.Create10msIncrement,
                                               set.file.CreateUtcOffset);
    return made ? made->ticks : 0;
}
}  // namespace

Listing Reader::listing_of(Cluster cluster) const {
    return parse_folder(FolderBytes(source_, {grid_.range({cluster, 1})}));
}

std::optional<EntrySet> Reader::first_set_in(Cluster cluster) const {
    const auto head =
        source_.read_vector({grid_.offset(cluster), std::min<std::uint64_t>(grid_.cluster_size, looked_at)});
    const auto at = first_sound_set(head);
    return at ? sound_set(Bytes(head).subspan(*at)) : std::nullopt;
}

/// An end mark (section 6.2.1) is the last entry.
bool Reader::ends_in(Cluster cluster) const {
    const auto end = grid_.range({cluster, 1}).end();
    return source_.read_vector({end - FolderBytes::slot_size, 1})[0] == 0;
}

/// A set that begins in one cluster and verifies with the other's first slots ties the two together, wherever
/// they stand.
Reader::Tie Reader::tie(Cluster before, Cluster after) const {
    const auto first = grid_.range({before, 1}), second = grid_.range({after, 1});
    const auto length = std::min<std::uint64_t>(first.length, looked_at);
    const auto goes_on = set_goes_on(source_.read_vector({first.end() - length, length}),
                                     source_.read_vector({second.offset, length}));
    return !goes_on ? Tie::none : *goes_on ? Tie::certain : Tie::contradicts;
}

/// Where no set tells, a folder goes on in the next cluster.
bool Reader::may_follow(Cluster before, Cluster after) const {
    return after == before + 1 && !begins_a_folder(after) && first_set_in(after).has_value();
}

std::optional<Reader::Named> Reader::named_last(Cluster cluster) const {
    const auto listing = listing_of(cluster);
    for (auto set = listing.sets.rbegin(); set != listing.sets.rend(); ++set) {
        if (set->after_end || !grid_.holds(set->stream.FirstCluster.value())) continue;
        return Named{set->stream.FirstCluster.value(), grid_.clusters_for(set->stream.DataLength.value()),
                     set->is_dir()};
    }
    return std::nullopt;
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

std::uint64_t Reader::left_open(Cluster cluster) const {
    const auto range = grid_.range({cluster, 1});
    const auto length = std::min<std::uint64_t>(range.length, looked_at);
    return open_set(source_.read_vector({range.end() - length, length}));
}

bool Reader::is_not_older(Cluster before, Cluster after) const {
    const auto listing = listing_of(before);
    const auto next = first_set_in(after);
    if (listing.sets.empty() || !next) return false;
    const auto earlier = birth_of(listing.sets.back()), later = birth_of(*next);
    return earlier != 0 && later != 0 && earlier <= later;
}

/// A folder that was filled file by file goes on where its writer was then: its next cluster, and the first
/// file that this one names, come right after the last file that the cluster before names, and are not
/// older.
bool Reader::written_on(Cluster writer, Cluster before, Cluster after) const {
    constexpr std::uint64_t others = 4;  // clusters that something else may have got in between
    const auto first = first_set_in(after);
    if (!first || first->stream.DataLength.value() == 0 || begins_a_folder(after)) return false;
    const auto to = writer + grid_.clusters_for(first->stream.DataLength.value()) + others;
    const std::uint64_t start = first->stream.FirstCluster.value();
    if (after < writer || after >= to || start < writer || start >= to || start == after) return false;
    const auto listing = listing_of(before);
    const auto earlier = listing.sets.empty() ? 0 : birth_of(listing.sets.back()), later = birth_of(*first);
    return earlier == 0 || later == 0 || earlier <= later;
}

}  // namespace undershelf::exfat
