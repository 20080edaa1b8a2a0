#include <fmt/format.h>

#include <algorithm>

#include "hfsplus/journal.hpp"
#include "hfsplus/reader.hpp"

namespace undershelf::hfsplus {

namespace {
constexpr std::uint64_t second_life = 2;
constexpr std::uint64_t bare_name_life = 1ull << 33;
constexpr std::size_t most_assembled = 64 << 20;  // bytes of nodes put together from journal images
}  // namespace

void Reader::remnants(EntrySink& sink, Progress& progress) {
    take_found(std::move(found_), 0);
    read_side_leftovers();
    if (!progress.stopped() && (header_.attributes.value() & kHFSVolumeJournaledMask)) {
        progress.stage("reading the journal");
        read_journal_images(sink, progress);
    }
    if (lost_.full())
        sink.diagnostic("Leftovers tell of more items than are kept in memory; the rest is left out.");
    emit_lost(sink, progress);
}

const Reader::Live* Reader::live_of(std::uint32_t id, std::uint32_t created) const {
    const auto it = std::lower_bound(live_.begin(), live_.end(), Live{id, 0, 0});
    if (it == live_.end() || it->id != id) return nullptr;
    const bool reused = header_.attributes.value() & kHFSCatalogNodeIDsReusedMask;
    return !reused || created == 0 || it->created == created ? &*it : nullptr;
}

/// A state of a live item is no entry; where it had another name then, that is evidence on it.
void Reader::take(Item&& item, std::uint64_t order) {
    const auto* live = live_of(item.id, item.created);
    if (!live) return lost_.take(std::move(item), order);
    // Ids begin anew with every format; a file has one birth.
    if (item.created && live->created && item.created != live->created) return;
    const auto print = place_print(item.parent, item.name);
    if (item.has_key && print != live->print && old_names_.insert({item.id, print}).second)
        renames_.push_back({item.id, {item.parent, std::move(item.name)}});
}

Leftovers Reader::Found::sink() {
    return {[this](Item&& item) { items.push_back(std::move(item)); },
            [this](Thread&& thread) { threads.push_back(std::move(thread)); },
            [this](BareName&& name) { names.push_back(std::move(name)); }};
}

void Reader::Found::append(Found&& more) {
    std::move(more.items.begin(), more.items.end(), std::back_inserter(items));
    std::move(more.threads.begin(), more.threads.end(), std::back_inserter(threads));
    std::move(more.names.begin(), more.names.end(), std::back_inserter(names));
}

void Reader::take_found(Found&& found, std::uint64_t order) {
    for (auto& item : found.items) take(std::move(item), order);
    for (auto& thread : found.threads) {
        if (!live_of(thread.id, 0)) lost_.take(std::move(thread));
    }
    for (auto& name : found.names) lost_.take(std::move(name));
    found = {};
}

/// Extents and attributes of items that are gone.
void Reader::read_side_leftovers() {
    ByteVector bytes;
    const auto each = [&](const BTree& tree, const auto& find) {
        for (std::uint64_t n = 0; n < tree.nodes(); ++n) {
            if (tree.use(n) == NodeUse::other) continue;
            tree.read(n, 1, bytes);
            if (all_zero(bytes)) continue;
            const auto node = tree.use(n) == NodeUse::unused ? std::nullopt : Node::parse(bytes);
            find(node ? node->free_space() : Bytes(bytes),
                 n * tree.node_size() + (node ? node->free_offset() : 0));
        }
    };
    each(extents_, [&](Bytes space, std::uint64_t) {
        find_overflow_leftovers(space, bounds_, [&](OverflowExtents&& x) {
            if (!live_of(x.id, 0)) side_.add(std::move(x));
        });
    });
    each(attributes_, [&](Bytes space, std::uint64_t at) {
        find_attribute_leftovers(space, bounds_,
                                 [&](Attribute&& a) { add_lost_attribute(a.id, known(a, attributes_, at)); });
    });
}

void Reader::add_lost_attribute(std::uint32_t id, KnownAttribute&& attribute) {
    if (live_of(id, 0)) return;
    if (const auto* known = side_.attributes(id)) {
        for (const auto& a : *known) {
            if (a.name == attribute.name) return;
        }
    }
    side_.add(id, std::move(attribute));
}

/// Images of catalogue nodes may come in pieces: they are laid over what is known of the node, which is its
/// present state at first, and the node is looked through at the end of each transaction.
void Reader::read_journal_images(EntrySink& sink, Progress& progress) {
    std::map<std::uint64_t, ByteVector> nodes;
    std::map<std::uint64_t, std::uint64_t> touched;  // node and where an image of it is
    std::size_t assembled = 0;
    std::uint64_t order = 1;
    const std::uint64_t size = catalogue_.node_size();
    const auto look_through = [&] {
        Found used, free;
        for (const auto& [n, place] : touched) {
            if (progress.stopped()) break;
            // What stood in the used part was so at that time; free space was left over even then.
            const auto node = Node::parse(nodes[n]);
            const auto end = node ? node->free_offset() : 0;
            find_leftovers(Bytes(nodes[n]).first(end), place, bounds_, used.sink());
            find_leftovers(Bytes(nodes[n]).subspan(end), place + end, bounds_, free.sink());
        }
        touched.clear();
        if (assembled > most_assembled) {
            nodes.clear();
            assembled = 0;
        }
        take_found(std::move(free), 0);
        take_found(std::move(used), order++);
    };
    const auto on_catalogue = [&](const JournalImage& image, std::uint64_t at) {
        for (std::uint64_t done = 0; done < image.bytes.size();) {
            const auto n = (at + done) / size, within = (at + done) % size;
            if (n >= catalogue_.nodes()) return;
            const auto part = std::min<std::uint64_t>(size - within, image.bytes.size() - done);
            auto& node = nodes[n];
            if (node.empty()) {
                catalogue_.read(n, 1, node);
                assembled += node.size();
            }
            std::copy_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(done), part,
                        node.begin() + static_cast<std::ptrdiff_t>(within));
            touched.emplace(n, image.source + done);
            done += part;
            if (assembled > 2 * most_assembled) look_through();
        }
    };
    const JournalSink into{
        [&](JournalImage&& image) {
            if (const auto at = catalogue_.nodes() ? catalogue_.fork().offset_of(image.target) : std::nullopt)
                return on_catalogue(image, *at);
            if (extents_.nodes() && extents_.fork().offset_of(image.target)) {
                find_overflow_leftovers(image.bytes, bounds_, [&](OverflowExtents&& x) {
                    if (!live_of(x.id, 0)) side_.add(std::move(x));
                });
            } else if (attributes_.nodes() && attributes_.fork().offset_of(image.target)) {
                find_attribute_leftovers(image.bytes, bounds_, [&](Attribute&& a) {
                    auto attribute = known(a, attributes_, 0);
                    if (a.in_record) attribute.places = {{image.source + a.data_at, a.size}};
                    add_lost_attribute(a.id, std::move(attribute));
                });
            }
        },
        look_through, [&](std::string what) { sink.diagnostic(std::move(what)); }};
    read_journal(source_, geometry_, header_.journalInfoBlock.value(), into);
}

void Reader::emit_lost(EntrySink& sink, Progress& progress) {
    for (const auto& [id, place] : renames_) {
        const bool is_dir = folders_.count(id);
        sink.evidence(Composer::key_of(id, is_dir),
                      {Fact::old_name, 0, 0, path_of(place.first, place.second)});
    }
    gather_dates();
    gather_lost_inodes();
    std::set<std::uint64_t> told;
    for (const auto& [id, lost] : lost_.items()) {
        if (progress.stopped()) return;
        if (!linked_inodes_.count(id)) emit_lost_item(id, lost, sink);
        for (const auto& s : lost.states) told.insert(place_print(s.item.parent, s.item.name));
        if (lost.thread) told.insert(place_print(lost.thread->parent, lost.thread->name));
    }
    for (const auto& [id, print] : old_names_) told.insert(print);
    if (lost_.names().empty()) return;
    for (const auto& l : live_) live_prints_.push_back(l.print);
    std::sort(live_prints_.begin(), live_prints_.end());
    for (const auto& name : lost_.names()) {
        if (progress.stopped()) return;
        const auto print = place_print(name.parent, name.name);
        if (!std::binary_search(live_prints_.begin(), live_prints_.end(), print) && told.insert(print).second)
            emit_bare_name(name, sink);
    }
}

/// Creation dates by id, for items that only a thread is left of. Nothing where ids were used again.
void Reader::gather_dates() {
    const bool needed = std::any_of(lost_.items().begin(), lost_.items().end(),
                                    [](const auto& i) { return i.second.states.empty(); });
    if (!needed || (header_.attributes.value() & kHFSCatalogNodeIDsReusedMask)) return;
    for (const auto& l : live_) dates_.push_back({l.id, l.created});
    for (const auto& [id, lost] : lost_.items()) {
        if (const auto* state = lost.newest()) dates_.push_back({id, state->item.created});
    }
    std::sort(dates_.begin(), dates_.end());
}

/// Ids are given out in order: an item whose neighbours were both made within the same hour was made then,
/// too.
void Reader::argue_date(std::uint32_t id, Entry& e) const {
    const auto after = std::lower_bound(dates_.begin(), dates_.end(), std::pair{id, std::uint32_t{0}});
    if (after == dates_.begin() || after == dates_.end()) return;
    const auto before = std::prev(after);
    if (after->second < before->second || after->second - before->second > 3600) return;
    e.created = e.modified = time_from(before->second);
    e.evidence.push_back({Fact::date_argued, before->first, after->first,
                          "Its dates are argued: its number lies between those of items made then."});
}

void Reader::emit_lost_item(std::uint32_t id, const LostItems::Lost& lost, EntrySink& sink) {
    const auto* newest = lost.newest();
    Item item;
    item.id = id;
    item.is_dir = lost.is_dir();
    if (newest) item = newest->item;
    const auto place = lost.place();
    item.parent = place ? place->first : kHFSRootFolderID;
    item.name = place ? place->second : u"";
    if (place && tell_lost_name(item, sink)) return;
    item = meant_by(std::move(item));
    std::vector<Entry> entries;
    // Of a former volume a thread says no more than that the folder was there.
    composer_.compose(item, former_ && !newest && item.is_dir ? Origin::live : Origin::deleted, side_,
                      entries);
    const bool id_is_live = live_of(item.id, 0);
    for (auto& e : entries) {
        if (id_is_live) e.key.b = second_life + item.created;
        if (!place) {
            e.name = fmt::format("{}-{}", item.is_dir ? "folder" : "file", id);
            e.name_certainty = NameCertainty::made_up;
            e.evidence.push_back({Fact::stand_in_name, 0, 0, {}});
        }
        if (!newest) {
            e.evidence.push_back(
                {Fact::from_index, lost.thread->source, 0, "Only its thread record is left."});
            argue_date(id, e);
        } else if (newest->order) {
            e.evidence.push_back({Fact::from_journal, item.source, 0, "Its record is in the journal."});
        } else {
            e.evidence.push_back(
                {Fact::from_index, item.source, 0, "Its record is in free space of the catalogue."});
        }
        std::set<std::uint64_t> names{place_print(item.parent, item.name)};
        for (const auto& s : lost.states) {
            if (s.item.has_key && names.insert(place_print(s.item.parent, s.item.name)).second)
                e.evidence.push_back({Fact::old_name, s.item.source, 0, path_of(s.item.parent, s.item.name)});
        }
        sink.entry(std::move(e));
    }
}

/// A name without an id: nothing else is known of it.
void Reader::emit_bare_name(const BareName& name, EntrySink& sink) {
    Entry e;
    e.key = {name.source, bare_name_life};
    e.parent = Composer::folder_key(name.parent);
    e.origin = Origin::deleted;
    e.name = shown(name.name);
    e.evidence.push_back({Fact::from_index, name.source, 0, "Only a key of the catalogue still names it."});
    sink.entry(std::move(e));
}

}  // namespace undershelf::hfsplus
