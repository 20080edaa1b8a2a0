#include "hfsplus/reader.hpp"

#include <fmt/format.h>
#include <tbb/enumerable_thread_specific.h>

#include <algorithm>

#include "base/batches.hpp"
#include "hfsplus/private_data.hpp"

namespace undershelf::hfsplus {

namespace {

constexpr std::uint64_t nodes_in_batch = 64;
constexpr std::size_t most_head = 32;  // of an attribute's data

std::uint32_t latest_date(const HFSPlusVolumeHeader& h) {
    // A clock may be wrong by the time for which a drive is in use, and dates in the future are set by hand.
    constexpr std::uint64_t ten_years = 315'360'000;  // seconds
    const auto last = std::max({h.createDate.value(), h.modifyDate.value(), h.checkedDate.value()});
    return static_cast<std::uint32_t>(std::min<std::uint64_t>(last + ten_years, UINT32_MAX));
}

}  // namespace

std::uint64_t place_print(std::uint32_t parent, const std::u16string& name) {
    return std::hash<std::u16string>()(name) ^ (parent * 0x9E3779B97F4A7C15ull);
}

Reader::Reader(const Source& source, const Volume& volume, const HFSPlusVolumeHeader& header,
               std::optional<FormerTrees> trees)
    : source_(source),
      volume_(volume),
      header_(header),
      geometry_{volume.offset, header.blockSize.value(), header.totalBlocks.value()},
      composer_(source, geometry_),
      former_(std::move(trees)),
      taken_(std::min<std::uint64_t>(geometry_.total_blocks, source.size() / geometry_.block_size + 1)) {
    // Seconds since 1904: there was no Macintosh before 1984.
    constexpr std::uint32_t year_1984 = 2'524'608'000;
    const bool reused = header.attributes.value() & kHFSCatalogNodeIDsReusedMask;
    // The alternate header is not kept up to date.
    const bool current = volume.head_offset == volume.offset + header_offset;
    bounds_ = {geometry_, reused || !current ? 0 : header.nextCatalogID.value(), year_1984,
               former_ ? UINT32_MAX : latest_date(header), 0};
}

Fork Reader::special_fork(const HFSPlusForkData& fork, std::uint32_t id) const {
    ForkInfo info{fork.logicalSize.value(), fork.totalBlocks.value(), {}, true};
    info.extents = extents_of(fork.extents, geometry_.total_blocks, info.sound);
    return Fork(source_, geometry_, side_.all_extents(info, id, false), info.size);
}

BTree Reader::open_tree(const HFSPlusForkData& fork, std::uint32_t id, const char* name,
                        EntrySink& sink) const {
    if (fork.logicalSize.value() == 0) return {};
    BTree tree(special_fork(fork, id), source_.size(),
               id == kHFSCatalogFileID ? catalogue_record_length : Node::RecordLength());
    if (tree.nodes() == 0)
        sink.diagnostic(fmt::format("The {} file does not begin with a header node.", name));
    tree.find_leaves([&](std::string what) { sink.diagnostic(fmt::format("The {} file: {}", name, what)); });
    return tree;
}

KnownAttribute Reader::known(const Attribute& a, const BTree& tree, std::uint64_t record_offset) const {
    KnownAttribute out{shown(a.name), a.size, {}, {}};
    if (a.in_record) {
        out.head.assign(a.data.begin(),
                        a.data.begin() + static_cast<std::ptrdiff_t>(std::min(most_head, a.data.size())));
        out.places = tree.fork().places(record_offset + a.data_at, a.size);
    } else {
        out.places = Fork(source_, geometry_, a.fork.extents, a.fork.size).places(0, a.fork.size);
    }
    return out;
}

/// The extents overflow comes first, since the other trees may need it; its own extents are all in the
/// header.
void Reader::read_side_trees(EntrySink& sink) {
    ByteVector bytes;
    const auto each_leaf = [&](const BTree& tree, const auto& visit) {
        for (std::uint64_t n = 0; n < tree.nodes(); ++n) {
            if (tree.use(n) != NodeUse::leaf) continue;
            tree.read(n, 1, bytes);
            const auto node = Node::parse(bytes);
            for (std::size_t i = 0; node && i < node->records(); ++i)
                visit(node->record(i), n * tree.node_size() + node->record_offset(i));
        }
    };
    extents_ = former_ ? former_->extents
                       : open_tree(header_.extentsFile, kHFSExtentsFileID, "extents overflow", sink);
    each_leaf(extents_, [&](Bytes record, std::uint64_t) {
        if (auto x = read_overflow(record, geometry_)) side_.add(std::move(*x));
    });
    attributes_ = former_ ? former_->attributes
                          : open_tree(header_.attributesFile, kHFSAttributesFileID, "attributes", sink);
    each_leaf(attributes_, [&](Bytes record, std::uint64_t at) {
        if (const auto a = read_attribute(record, geometry_)) side_.add(a->id, known(*a, attributes_, at));
    });
}

void Reader::read(EntrySink& sink, Progress& progress) {
    progress.stage("reading the catalogue");
    read_side_trees(sink);
    catalogue_ =
        former_ ? former_->catalogue : open_tree(header_.catalogFile, kHFSCatalogFileID, "catalogue", sink);
    bounds_.nodes = catalogue_.nodes();
    read_catalogue(sink, progress);
    if (progress.stopped()) return;
    if (former_) keep_newest();
    resolve_links(sink);
    if (!std::is_sorted(live_.begin(), live_.end())) std::sort(live_.begin(), live_.end());
    if (!former_) report_unowned(sink);
}

struct Reader::Batch {
    std::vector<Entry> entries;
    std::vector<Live> live;
    std::vector<Item> aside;
    std::vector<std::pair<std::uint32_t, FolderPlace>> folders;
    Found found;
};

Reader::Batch Reader::parse(std::uint64_t from, std::uint64_t to, ByteVector& bytes) const {
    Batch batch;
    catalogue_.read(from, to - from, bytes);
    const std::size_t size = catalogue_.node_size();
    const auto leftovers = batch.found.sink();
    for (auto n = from; n < to; ++n) {
        const auto use = catalogue_.use(n);
        const auto node_bytes = Bytes(bytes).subspan((n - from) * size, size);
        if (use == NodeUse::other || all_zero(node_bytes)) continue;
        const auto node = use == NodeUse::unused ? std::nullopt : Node::parse(node_bytes);
        if (use == NodeUse::leaf) {
            if (const auto leaf = node ? node : catalogue_.rest_of(node_bytes))
                parse_leaf(*leaf, node.has_value(), n * size, batch);
        }
        // Free space of the nodes in use, and the whole of those that are not.
        const auto free = node ? node->free_space() : node_bytes;
        const auto places = catalogue_.fork().places(n * size + (node ? node->free_offset() : 0), 1);
        if (!places.empty() && !all_zero(free))
            find_leftovers(free, places.front().offset, bounds_, leftovers);
    }
    return batch;
}

/// Of what is left of a leaf that is not whole, a record may be partly something else.
void Reader::parse_leaf(const Node& node, bool whole, std::uint64_t offset, Batch& batch) const {
    for (std::size_t i = 0; i < node.records(); ++i) {
        // A thread names a folder whose own record is lost.
        if (auto thread = former_ ? read_thread(node.record(i)) : std::nullopt) {
            if (thread->parent != kHFSRootParentID) {
                thread->source = offset + node.record_offset(i);
                batch.found.threads.push_back(std::move(*thread));
            }
            continue;
        }
        auto item =
            whole ? read_item(node.record(i), geometry_) : read_plausible_item(node.record(i), bounds_);
        if (!item || item->parent == kHFSRootParentID) continue;
        item->source = offset;
        batch.live.push_back({item->id, item->created, place_print(item->parent, item->name)});
        if (item->is_dir) batch.folders.push_back({item->id, {item->parent, item->name}});
        if (former_ || item->is_hard_link() || item->is_folder_link() || may_be_private(*item)) {
            batch.aside.push_back(std::move(*item));
            continue;
        }
        const auto first = batch.entries.size();
        composer_.compose(*item, Origin::live, side_, batch.entries);
        if (!is_system_name(*item)) continue;
        // Its Finder info only hides it.
        batch.entries.resize(first + 1);
        batch.entries[first].system = true;
    }
}

/// Nodes are parsed by several threads, and handed over in their order.
void Reader::read_catalogue(EntrySink& sink, Progress& progress) {
    const auto nodes = catalogue_.nodes();
    tbb::enumerable_thread_specific<ByteVector> bytes_of_thread;
    in_ordered_batches<Batch>(
        nodes, nodes_in_batch, [&] { return progress.stopped(); },
        [&](std::uint64_t from, std::uint64_t to) { return parse(from, to, bytes_of_thread.local()); },
        [&](Batch batch, std::uint64_t to) {
            for (auto& e : batch.entries) emit(std::move(e), sink);
            live_.insert(live_.end(), batch.live.begin(), batch.live.end());
            for (auto& i : batch.aside) set_aside_.push_back(std::move(i));
            for (auto& [id, place] : batch.folders) folders_.emplace(id, std::move(place));
            found_.append(std::move(batch.found));
            progress.at(to, nodes);
        });
}

void Reader::emit(Entry&& e, EntrySink& sink) {
    for (const auto& r : e.claims) {
        const auto b = (r.offset - volume_.offset) / geometry_.block_size;
        taken_.add(b, b + r.length / geometry_.block_size);
    }
    sink.entry(std::move(e));
}

void Reader::emit_item(const Item& item, bool system, EntrySink& sink) {
    std::vector<Entry> entries;
    composer_.compose(item, Origin::live, side_, entries);
    // The Finder info of the system's own only hides them.
    if (is_system_name(item)) entries.resize(1);
    for (auto& e : entries) {
        e.system = system || is_system_name(item);
        emit(std::move(e), sink);
    }
}

/// Nodes that were free are among those that were not: of an id the state that was changed last counts.
void Reader::keep_newest() {
    const auto changed = [](const Item& i) { return std::max({i.modified, i.changed, i.accessed}); };
    std::stable_sort(set_aside_.begin(), set_aside_.end(), [&](const Item& a, const Item& b) {
        return a.id != b.id ? a.id < b.id : changed(a) > changed(b);
    });
    const auto end = std::unique(set_aside_.begin(), set_aside_.end(),
                                 [](const Item& a, const Item& b) { return a.id == b.id; });
    set_aside_.erase(end, set_aside_.end());
}

/// Blocks that the bitmap has in use and no live file does; its first bit is the most significant one.
void Reader::report_unowned(EntrySink& sink) {
    const auto bitmap = special_fork(header_.allocationFile, kHFSAllocationFileID);
    if (bitmap.size() * 8 < taken_.end())
        sink.diagnostic(
            "The allocation file is shorter than the volume needs; the blocks it does not tell of count as "
            "free.");
    // Trees are made larger than they need to be, and what was there before is in what they do not use.
    BitSet unwritten(taken_.end());
    for (const auto* tree : {&extents_, &catalogue_, &attributes_}) {
        for (std::uint64_t n = 0; n < tree->nodes(); ++n) {
            if (tree->is_written(n)) continue;
            for (const auto& r : tree->fork().places(n * tree->node_size(), tree->node_size()))
                unwritten.add((r.offset - volume_.offset + geometry_.block_size - 1) / geometry_.block_size,
                              (r.end() - volume_.offset) / geometry_.block_size);
        }
    }
    ByteRange open;
    ByteVector bytes(64 << 10);
    const auto close = [&] {
        if (!open.empty()) sink.in_use(open);
        open = {};
    };
    for (std::uint64_t block = 0; block < taken_.end(); ++block) {
        const auto within = block % (bytes.size() * 8);
        if (within == 0) bitmap.read(block / 8, bytes);
        if (!(bytes[within / 8] >> (7 - within % 8) & 1) || taken_.has(block) || unwritten.has(block)) {
            close();
            continue;
        }
        if (open.empty()) open.offset = volume_.offset + block * geometry_.block_size;
        open.length += geometry_.block_size;
    }
    close();
}

std::string Reader::path_of(std::uint32_t folder, const std::u16string& name) const {
    std::string path = shown(name);
    for (std::size_t depth = 0; folder != kHFSRootFolderID && depth < bound::folder_depth; ++depth) {
        if (const auto it = folders_.find(folder); it != folders_.end()) {
            path = shown(it->second.name) + "/" + path;
            folder = it->second.parent;
            continue;
        }
        const auto lost = lost_.items().find(folder);
        const auto place = lost == lost_.items().end() ? std::nullopt : lost->second.place();
        if (!place) return fmt::format("folder-{}/{}", folder, path);
        path = shown(place->second) + "/" + path;
        folder = place->first;
    }
    return path;
}

}  // namespace undershelf::hfsplus
