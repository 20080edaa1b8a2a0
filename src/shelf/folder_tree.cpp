#include "shelf/folder_tree.hpp"

#include <algorithm>
#include <limits>

#include "base/saturating.hpp"
#include "base/text.hpp"
#include "shelf/database.hpp"
#include "shelf/entry_rows.hpp"
#include "shelf/folder_rows.hpp"

namespace undershelf {

namespace {

std::uint64_t size_in(const Rows& q, int column) {
    return static_cast<std::uint64_t>(std::max<std::int64_t>(q.number(column), 0));
}

void add_to(FolderTotals& to, const FolderTotals& more) {
    to.files += more.files;
    to.bytes = saturating_add(to.bytes, more.bytes);
    to.likely += more.likely;
}

}  // namespace

FolderTree::FolderTree(const Shelf& shelf) {
    if (!load(shelf.database())) *this = FolderTree(shelf.database(), shelf.path());
}

FolderTree::FolderTree(SQLite::Database& db, const std::string& shelf) {
    take(folder_rows(db, shelf));
    Rows q(db,
           "SELECT folder, coalesce(volume, 0), first_path, size, grade * (rated = 1) FROM entries WHERE "
           "is_dir = 0 AND helper = 0",
           {});
    EntryPlace e;
    while (q.next()) {
        e.folder = q.number(0);
        e.volume = static_cast<int>(q.number(1));
        q.text(2, e.first_path);
        if (const auto place = place_of(e); place != none)
            count(place, size_in(q, 3), q.number(4) >= static_cast<std::int64_t>(Grade::likely));
    }
    sum_up();
    for (auto& node : nodes_) node.kept = false;
}

bool FolderTree::load(SQLite::Database& db) {
    std::vector<Row> rows;
    Rows q(
        db,
        "SELECT id, parent, volume, origin, flags, name, files, bytes, likely FROM shown_folders ORDER BY id",
        {});
    while (q.next()) {
        const auto origin = std::clamp<std::int64_t>(q.number(3), 0, static_cast<int>(Origin::unnamed));
        Row row{q.number(0),
                q.number(1),
                static_cast<int>(q.number(2)),
                static_cast<Origin>(origin),
                static_cast<std::uint8_t>(q.number(4)),
                {},
                {size_in(q, 6), size_in(q, 7), size_in(q, 8)}};
        q.text(5, row.name);
        rows.push_back(std::move(row));
    }
    take(std::move(rows));
    return !nodes_.empty();
}

void FolderTree::take(std::vector<Row>&& rows) {
    std::sort(rows.begin(), rows.end(), [](const Row& a, const Row& b) { return a.id < b.id; });
    nodes_.reserve(rows.size());
    for (const auto& row : rows) {
        Node node;
        node.id = row.id;
        node.parent = row.parent;
        node.volume = row.volume;
        node.origin = row.origin;
        node.flags = row.flags;
        node.name_at = static_cast<std::uint32_t>(names_.size());
        node.name_length = static_cast<std::uint32_t>(row.name.size());
        node.totals = row.totals;
        names_ += row.name;
        nodes_.push_back(node);
    }
    for (auto& node : nodes_) {
        // Roots are in nothing, whatever a shelf from elsewhere says: so no walk from one goes in a circle.
        const bool root = node.id <= 0 && node.id >= std::numeric_limits<int>::min();
        node.flags = static_cast<std::uint8_t>(root ? node.flags | is_root : node.flags & ~is_root);
        node.above = root ? none : find(node.parent);
    }
}

void FolderTree::keep_in(SQLite::Database& db) const {
    drop(db);
    SQLite::Statement s(db, "INSERT INTO shown_folders VALUES(?,?,?,?,?,?,?,?,?)");
    for (Index i = 0; i < nodes_.size(); ++i) {
        const auto& n = nodes_[i];
        s.reset();
        s.bind(1, n.id);
        s.bind(2, n.parent);
        s.bind(3, n.volume);
        s.bind(4, std::string(name(i)));
        s.bind(5, static_cast<int>(n.origin));
        s.bind(6, static_cast<int>(n.flags));
        s.bind(7, static_cast<std::int64_t>(n.totals.files));
        s.bind(8, static_cast<std::int64_t>(std::min<std::uint64_t>(n.totals.bytes, INT64_MAX)));
        s.bind(9, static_cast<std::int64_t>(n.totals.likely));
        s.exec();
    }
}

void FolderTree::drop(SQLite::Database& db) {
    db.exec("DELETE FROM shown_folders");
}

FolderTree::Index FolderTree::find(std::int64_t id) const {
    const auto it = std::lower_bound(nodes_.begin(), nodes_.end(), id,
                                     [](const Node& n, std::int64_t wanted) { return n.id < wanted; });
    return it != nodes_.end() && it->id == id ? static_cast<Index>(it - nodes_.begin()) : none;
}

FolderTree::Index FolderTree::below(Index parent, std::string_view wanted) const {
    if (by_name_.empty()) {
        for (Index i = 0; i < nodes_.size(); ++i) {
            const auto [it, fresh] = by_name_.emplace(std::pair(nodes_[i].above, std::string(name(i))), i);
            if (!fresh && nodes_[it->second].origin != Origin::live && nodes_[i].origin == Origin::live)
                it->second = i;
        }
    }
    const auto it = by_name_.find(std::pair(parent, std::string(wanted)));
    return it == by_name_.end() ? none : it->second;
}

FolderTree::Index FolderTree::place_of(const EntryPlace& entry) const {
    if (entry.is_dir) return find(entry.id);
    const auto own = find(entry.folder);
    if (entry.first_path.empty() || (own != none && (nodes_[own].flags & binned))) return own;
    auto place = root(entry.volume);
    for_each_name(folder_in(entry.first_path), [&](std::string_view name) {
        if (place != none) place = below(place, name);
    });
    return place;
}

std::string FolderTree::path(Index i, std::optional<unsigned> depth) const {
    std::vector<std::string_view> names;
    // What leads in a circle ends somewhere.
    for (auto at = i; at != none && !(nodes_[at].flags & is_root) && names.size() < nodes_.size();
         at = nodes_[at].above)
        names.push_back(name(at));
    if (depth && names.size() > *depth) names.erase(names.begin(), names.end() - *depth);
    std::string out;
    for (auto it = names.rbegin(); it != names.rend(); ++it) {
        if (!out.empty()) out += '/';
        out += *it;
    }
    return out;
}

void FolderTree::clear() {
    for (auto& node : nodes_) {
        node.totals = {};
        node.kept = false;
    }
}

void FolderTree::count(Index place, std::uint64_t bytes, bool likely) {
    add_to(nodes_[place].totals, {1, bytes, likely ? 1u : 0u});
    keep(place);
}

void FolderTree::keep(Index i) {
    for (; i != none && !nodes_[i].kept; i = nodes_[i].above) nodes_[i].kept = true;
}

void FolderTree::keep_all() {
    for (Index i = 0; i < nodes_.size(); ++i) {
        if (nodes_[i].totals.files || !(nodes_[i].flags & (helper | made_up | is_root))) keep(i);
    }
}

/// From the innermost ones up; what leads in a circle is left out.
void FolderTree::sum_up() {
    std::vector<Index> waiting_for(nodes_.size()), ready;
    for (const auto& node : nodes_) {
        if (node.above != none) ++waiting_for[node.above];
    }
    for (Index i = 0; i < nodes_.size(); ++i) {
        if (!waiting_for[i]) ready.push_back(i);
    }
    while (!ready.empty()) {
        const auto i = ready.back();
        ready.pop_back();
        const auto above = nodes_[i].above;
        if (above == none) continue;
        add_to(nodes_[above].totals, nodes_[i].totals);
        if (--waiting_for[above] == 0) ready.push_back(above);
    }
}

void FolderTree::arrange() {
    for (Index i = static_cast<Index>(nodes_.size()); i-- > 0;) {
        auto& node = nodes_[i];
        if (!node.kept || node.above == none) continue;
        node.next = nodes_[node.above].first_below;
        nodes_[node.above].first_below = i;
    }
    std::vector<std::pair<std::string, Index>> order;
    for (auto& node : nodes_) {
        order.clear();
        for (auto i = node.first_below; i != none; i = nodes_[i].next) order.emplace_back(folded(name(i)), i);
        if (order.size() < 2) continue;
        std::sort(order.begin(), order.end());
        auto* to = &node.first_below;
        for (const auto& [folded_name, i] : order) {
            *to = i;
            to = &nodes_[i].next;
        }
        *to = none;
    }
}

std::vector<FolderTree::Index> FolderTree::leaving_order(const std::vector<Index>& roots,
                                                         unsigned depth) const {
    std::vector<Index> out(nodes_.size(), none);
    Index left = 0;
    for (const auto root : roots) {
        if (!nodes_[root].kept) continue;
        // On a stack of its own: folders may be nested deeper than the program's stack.
        std::vector<std::pair<Index, Index>> open{{root, nodes_[root].first_below}};
        while (!open.empty()) {
            auto& [folder, next] = open.back();
            if (next == none || open.size() > depth) {
                out[folder] = left++;
                open.pop_back();
            } else {
                const auto enter = next;
                next = nodes_[enter].next;
                open.emplace_back(enter, nodes_[enter].first_below);
            }
        }
    }
    return out;
}

}  // namespace undershelf
