#include "ntfs/numbering.hpp"

#include <algorithm>
#include <map>
#include <unordered_map>

#include "ntfs/mention.hpp"
#include "ntfs/traces.hpp"

namespace undershelf::ntfs {

namespace {

constexpr std::size_t block_size = 4096, fewest_votes = 2;
/// Names that are kept, and records of one stretch that are looked at.
constexpr std::size_t most_names = 4 << 20, most_asked = 4096;

/// A name in a folder.
std::uint64_t print_of(const Reference& folder, const std::u16string& name) {
    return std::hash<std::u16string>()(name) ^ (folder.packed() * 0x9E3779B97F4A7C15ull);
}

class Names {
  public:
    void add_all_in(Bytes bytes) {
        for (std::size_t at = 0; at + 16 < bytes.size() && records_.size() < most_names; at += 8) {
            const auto mention = index_entry_mention(bytes.subspan(at));
            if (mention) records_.emplace(print_of(mention->folder, mention->name), mention->file.record);
        }
    }
    /// The record that a name in a folder means; nothing where several do.
    std::optional<std::uint64_t> record_of(const Reference& folder, const std::u16string& name) const {
        const auto [from, to] = records_.equal_range(print_of(folder, name));
        if (from == to) return std::nullopt;
        const auto record = from->second;
        const bool one = std::all_of(from, to, [&](const auto& x) { return x.second == record; });
        return one ? std::optional(record) : std::nullopt;
    }

  private:
    std::unordered_multimap<std::uint64_t, std::uint64_t> records_;
};

}  // namespace

std::vector<TablePart> number_stretches(const Source& source, const TraceStore& traces,
                                        std::uint32_t record_size, const Progress& progress) {
    std::vector<ByteRange> stretches;
    traces.visit_all(record_trace, [&](const Trace& t) {
        if (t.a != no_own_number || t.b >> 32 != record_size) return !progress.stopped();
        if (!stretches.empty() && stretches.back().end() == t.offset) {
            stretches.back().length += record_size;
        } else {
            stretches.push_back({t.offset, record_size});
        }
        return !progress.stopped();
    });
    if (stretches.empty()) return {};
    Names names;
    traces.visit_all(index_trace, [&](const Trace& t) {
        auto bytes = source.read_vector({t.offset, block_size});
        undo_fixups(bytes);
        names.add_all_in(bytes);
        return !progress.stopped();
    });
    Geometry g{};
    g.record_size = record_size;
    // Small folders have their index in their record.
    for (const auto& s : stretches) {
        for (auto at = s.offset; at < s.end() && !progress.stopped(); at += record_size) {
            const auto bytes = record_at(source, at, g);
            if (bytes && (load<FileRecord>(*bytes)->flags.value() & RECORD_FLAG_DIR))
                names.add_all_in(*bytes);
        }
    }
    std::vector<TablePart> out;
    for (const auto& s : stretches) {
        std::map<std::uint64_t, std::size_t> votes;  // for the stretch's offset in the table
        const auto step = std::max<std::uint64_t>(1, s.length / record_size / most_asked) * record_size;
        for (auto at = s.offset; at < s.end() && !progress.stopped(); at += step) {
            const auto bytes = record_at(source, at, g);
            for (const auto& a : attributes_of(bytes ? Bytes(*bytes) : Bytes())) {
                const auto name = a.type == ATTR_NAME ? parse_name(a.value()) : std::nullopt;
                if (!name) continue;
                const auto record = names.record_of({name->parent_record, name->parent_sequence}, name->name);
                if (record && *record * record_size >= at - s.offset)
                    ++votes[*record * record_size - (at - s.offset)];
            }
        }
        const auto best = std::max_element(votes.begin(), votes.end(),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
        if (best == votes.end() || (best->second < fewest_votes && s.length > record_size)) continue;
        out.push_back({best->first, s});
    }
    return out;
}

}  // namespace undershelf::ntfs
