#include "fat/file_system.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "fat/former.hpp"
#include "fat/headless.hpp"
#include "fat/reader.hpp"
#include "fat/settle.hpp"
#include "fat/traces.hpp"

namespace undershelf::fat {

namespace {

/// How many clusters of a FAT are looked at to say how full a volume is, at most.
constexpr std::uint32_t most_counted = 4 << 20;

/// Does the copy of the FAT begin as it must: the media byte, then ones?
bool fat_begins_well(const Source& source, std::uint64_t at, const Geometry& g) {
    std::uint8_t head[4];
    if (!source.read(at, head).empty()) return false;
    const bool ones =
        head[1] == 0xFF && (g.width == Width::fat12   ? head[2] == 0xFF
                            : g.width == Width::fat16 ? (head[2] & 0xFF) == 0xFF
                                                      : (head[2] == 0xFF && (head[3] & 0x0F) == 0x0F));
    return head[0] == g.media && ones;
}

std::vector<ByteRange> root_start(const Geometry& g, std::uint64_t volume_offset) {
    if (g.width != Width::fat32) return {{volume_offset + g.root_offset, g.root_size}};
    return {{volume_offset + g.cluster_offset(g.root_cluster), g.cluster_size}};
}

/// An empty root folder is fine; one that holds something must hold folder slots.
bool root_is_plausible(const Source& source, const Geometry& g, std::uint64_t volume_offset) {
    auto range = root_start(g, volume_offset).front();
    range.length = std::min<std::uint64_t>(range.length, g.cluster_size);
    ByteVector bytes(static_cast<std::size_t>(range.length));
    if (!source.read(range.offset, bytes).empty()) return false;
    if (bytes[0] == slot_end) return true;
    const auto first = load<DirEntry>(bytes);
    return (first->DIR_Attr & ATTR_LONG_NAME_MASK) == ATTR_LONG_NAME ||
           is_plausible(*first, first->DIR_Name[0] == slot_erased) || (first->DIR_Attr & ATTR_VOLUME_ID);
}

/// The label: the root folder's entry for it, as drivers take it; empty without one.
std::string root_label(const Source& source, const Geometry& g, std::uint64_t volume_offset,
                       const CodePage& page) {
    const Table table(source, volume_offset, g, Table::Usage::not_asked);
    auto ranges = root_start(g, volume_offset);
    if (g.width == Width::fat32) {
        ranges = table.grid().ranges(table.follow(g.root_cluster, 0, {256, 256}, ClusterSet()).runs);
    }
    for (const auto& slots : parse_folder(FolderBytes(source, ranges)).entries) {
        const auto attr = slots.entry.DIR_Attr;
        if (slots.erased || slots.after_end || !(attr & ATTR_VOLUME_ID) || (attr & ATTR_DIRECTORY)) continue;
        return label_of(slots.entry, page);
    }
    return {};
}

Recognition describe(const Source& source, const Geometry& g, std::uint64_t start, std::uint64_t head,
                     const std::string& found_by) {
    Recognition r;
    auto& v = r.volume;
    v.family = "FAT";
    v.file_system = g.file_system();
    v.offset = start;
    v.size = g.total_size;
    v.cluster_size = g.cluster_size;
    v.found_by = found_by;
    v.head_offset = head;
    v.grid_start = start + g.data_offset;
    if (g.serial) v.serial = fmt::format("{:04X}-{:04X}", *g.serial >> 16, *g.serial & 0xFFFF);
    // What must be where the boot sector says: itself with its signature, each FAT, the root folder.
    unsigned good = g.signature, all = 1;
    for (unsigned copy = 0; copy < g.fat_count; ++copy, ++all) {
        const bool well = fat_begins_well(source, start + g.fat_offset + copy * g.fat_size, g);
        good += well;
        if (!well) r.remarks.push_back(fmt::format("FAT {} does not begin as a FAT does.", copy + 1));
    }
    ++all;
    if (root_is_plausible(source, g, start)) {
        ++good;
    } else {
        r.remarks.push_back("The root folder does not read as one.");
    }
    v.support = static_cast<double>(good) / all;
    if (!g.signature) r.remarks.push_back("The boot sector lacks its signature 55 AA.");
    if (start + g.total_size > source.size()) {
        r.remarks.push_back(fmt::format("The volume says it has {} bytes, {} more than the source holds.",
                                        g.total_size, start + g.total_size - source.size()));
    }
    return r;
}

std::optional<Geometry> read_geometry(const Source& source, std::uint64_t at) {
    std::uint8_t sector[512];
    if (!source.read(at, sector).empty()) return std::nullopt;
    return parse_boot_sector(sector);
}

class FatFileSystem final : public FileSystem {
  public:
    std::string_view family() const override { return "FAT"; }
    std::vector<std::string_view> systems() const override { return {"FAT12", "FAT16", "FAT32"}; }
    std::int32_t date_resolution() const override { return clusters::date_resolution; }

    std::optional<Recognition> recognise(const Source& source, std::uint64_t offset,
                                         const ReadOptions& options) const override {
        const auto g = read_geometry(source, offset);
        if (!g) return std::nullopt;
        auto r = describe(source, *g, offset, offset, "boot sector");
        if (r.volume.support < 0.3) return std::nullopt;
        add_label(source, *g, options, r);
        return r;
    }

    std::vector<Recognition> recognise_copy(const Source& source, std::uint64_t at,
                                            const ReadOptions& options) const override {
        const auto g = read_geometry(source, at);
        if (!g || g->backup_offset == 0 || g->backup_offset > at) return {};
        auto r = describe(source, *g, at - g->backup_offset, at, "backup boot sector");
        if (r.volume.support < 0.5) return {};
        add_label(source, *g, options, r);
        return {std::move(r)};
    }

    std::vector<std::uint64_t> copy_places(const ByteRange& stretch,
                                           std::uint32_t sector_size) const override {
        // FAT32 keeps its copy in sector 6, by the specification always there.
        return {stretch.offset + 6ull * sector_size};
    }

    bool may_be_table(Bytes sector) const override { return fat::may_be_table(sector); }
    std::optional<Recognition> recognise_tables(const Source& source, std::uint64_t first,
                                                std::uint64_t second,
                                                const ReadOptions& options) const override {
        const auto solved = solve_tables(source, first, second);
        if (!solved) return std::nullopt;
        auto r = describe(source, solved->geometry, solved->offset, first, "FATs");
        r.volume.support = solved->support;
        r.volume.geometry = pack_geometry(solved->geometry).text();
        add_label(source, solved->geometry, options, r);
        return r;
    }

    bool may_be_head(Bytes sector) const override { return parse_boot_sector(sector).has_value(); }

    std::optional<Space> space(const Source& source, const Volume& volume) const override {
        const auto g = read_geometry(source, volume.head_offset);
        if (!g || g->cluster_count > most_counted) return std::nullopt;
        const Table table(source, volume.offset, *g);
        Space out;
        out.used = table.used_clusters() * g->cluster_size;
        out.free = std::uint64_t{g->cluster_count} * g->cluster_size - out.used;
        out.free_samples = clusters::free_samples(table.grid(), table.used());
        return out;
    }

    std::unique_ptr<VolumeReader> open(const Source& source, const Volume& volume, const TraceStore& traces,
                                       const ReadOptions& options) const override {
        if (volume.state == VolumeState::former && !volume.geometry.empty())
            return open_former(source, volume, traces, options);
        const auto g = volume.geometry.empty() ? read_geometry(source, volume.head_offset)
                                               : unpack_geometry(NumberLines(volume.geometry));
        if (!g) {
            throw Error(Trouble::input, fmt::format("The boot sector of the {} volume at offset {} cannot be "
                                                    "read any more; scan the source again.",
                                                    volume.file_system, volume.offset));
        }
        auto reader = std::make_unique<Reader>(source, volume, *g, options);
        reader->search_no_more_than(options.search_bytes);
        return reader;
    }

    bool is_searched_in_part(const Volume& volume, const ReadOptions& options) const override {
        return volume.size > options.search_bytes;
    }
    std::vector<std::uint64_t> lost_folders(const Source& source, const PresentLife& life,
                                            const TraceStore& traces,
                                            const ReadOptions& options) const override {
        return fat::lost_folders(source, life, traces, options);
    }

    void find_traces(const SweepBuffer& buffer, TraceSink& sink) const override {
        fat::find_traces(buffer, sink);
    }
    std::vector<Recognition> settle(const Settling& settling, const Progress& progress) const override {
        return fat::settle(settling, progress);
    }
    Recognition as_told(const VolumeHint& told, const Settling& settling) const override {
        return fat::as_told(told, settling);
    }

  private:
    static void add_label(const Source& source, const Geometry& g, const ReadOptions& options,
                          Recognition& r) {
        const CodePage page(options.code_page);
        r.volume.label = root_label(source, g, r.volume.offset, page);
        const auto boot =
            page.utf8({reinterpret_cast<const std::uint8_t*>(g.boot_label.data()), g.boot_label.size()});
        if (boot.empty() || boot == r.volume.label) return;
        r.remarks.push_back(fmt::format("The boot sector says its label is “{}”; {}.", boot,
                                        r.volume.label.empty()
                                            ? "the root folder has none, and drivers show that"
                                            : "drivers show the root folder's, “" + r.volume.label + "”"));
    }
};

}  // namespace

const FileSystem& file_system() {
    static const FatFileSystem instance;
    return instance;
}

}  // namespace undershelf::fat
