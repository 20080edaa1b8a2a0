// The part of the writer that is about files that were moved: several entries become one, with earlier names;
// and about what is in bins.

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <unordered_map>

#include "base/slash_path.hpp"
#include "base/text.hpp"
#include "shelf/blobs.hpp"
#include "shelf/packing.hpp"
#include "shelf/writer_statements.hpp"
#include "volume/budget.hpp"

namespace undershelf {

namespace {

std::optional<std::int64_t> ticks_or_none(SQLite::Statement& q, int column) {
    const auto c = q.getColumn(column);
    return c.isNull() ? std::nullopt : std::optional(c.getInt64());
}
MaybeTime time_or_none(SQLite::Statement& q, int column, std::int64_t zones, int index) {
    const auto ticks = ticks_or_none(q, column);
    return ticks ? MaybeTime({*ticks, unpack_zone(zones, index)}) : std::nullopt;
}

/// In the order in which `place_in` takes them; `p` is the entry of the folder.
constexpr const char* place_columns =
    "e.id, e.volume, e.is_dir, e.origin, e.start, e.size, e.created, e.modified, e.accessed, e.zones, "
    "e.folder, "
    "p.created, e.key_a, e.layout, e.name, e.ext, e.name_certainty, e.evidence";

/// All but the path of its folder.
LostPlace place_in(SQLite::Statement& q) {
    LostPlace p;
    p.id = q.getColumn(0).getInt64();
    p.volume = q.getColumn(1).getInt();
    p.is_dir = q.getColumn(2).getInt() != 0;
    if (!q.getColumn(4).isNull()) p.start = static_cast<std::uint64_t>(q.getColumn(4).getInt64());
    p.size = static_cast<std::uint64_t>(q.getColumn(5).getInt64());
    const auto zones = q.getColumn(9).getInt64();
    p.created = time_or_none(q, 6, zones, 0);
    p.modified = time_or_none(q, 7, zones, 1);
    p.accessed = time_or_none(q, 8, zones, 2);
    p.folder = q.getColumn(10).getInt64();
    p.folder_born = ticks_or_none(q, 11);
    p.slot = static_cast<std::uint64_t>(q.getColumn(12).getInt64());
    p.layout = static_cast<Layout>(q.getColumn(13).getInt());
    p.name = q.getColumn(14).getString();
    p.ext = q.getColumn(15).getString();
    p.certainty = static_cast<NameCertainty>(q.getColumn(16).getInt());
    const bool former = q.getColumn(3).getInt() == static_cast<int>(Origin::former);
    p.in_use = former && !has_fact(unpack_evidence(blob_in(q, 17)), Fact::deleted_before);
    return p;
}

/// The folders of a volume, of which some become one with others.
class FolderTree {
  public:
    FolderTree(SQLite::Database& db, int volume) : db_(db), volume_(volume) {
        SQLite::Statement q(db, "SELECT id, folder, name FROM entries WHERE volume = ? AND is_dir = 1");
        q.bind(1, volume);
        while (q.executeStep())
            folders_[q.getColumn(0).getInt64()] = {q.getColumn(1).getInt64(), q.getColumn(2).getString(), {}};
    }

    /// What is in `old` is in `now`. False where one is in the other, or paths would become too long.
    bool join(std::int64_t old, std::int64_t now) {
        if (!folders_.count(old) || !folders_.count(now) || lies_in(old, now) || lies_in(now, old))
            return false;
        joined_[old] = now;
        return true;
    }

    /// Would all paths together stay within what a volume's may have?
    bool fits() const {
        std::uint64_t sum = 0;
        for (const auto& [id, folder] : folders_) {
            std::uint64_t length = 0, depth = 0;
            for (auto at = now(id); folders_.count(at); at = now(folders_.at(at).parent)) {
                length += folders_.at(at).name.size() + 1;
                if (++depth > bound::folder_depth || length > bound::path_bytes) return false;
            }
            sum += length;
        }
        return sum <= bound::all_paths_bytes + bound::path_bytes_each * folders_.size();
    }

    /// Writes where everything is now.
    void write() {
        SQLite::Statement move(db_, "UPDATE entries SET folder = ? WHERE volume = ? AND folder = ?");
        for (const auto& [old, unused] : joined_) {
            move.reset();
            move.bind(1, now(old));
            move.bind(2, volume_);
            move.bind(3, old);
            move.exec();
        }
        SQLite::Statement path(db_, "UPDATE folders SET path = ? WHERE id = ? AND path <> ?1");
        for (const auto& [id, folder] : folders_) {
            if (joined_.count(id)) continue;
            path.reset();
            path.bind(1, path_of(id));
            path.bind(2, id);
            path.exec();
        }
    }

  private:
    struct Folder {
        std::int64_t parent = 0;
        std::string name, path;
    };

    std::int64_t now(std::int64_t id) const {
        for (auto it = joined_.find(id); it != joined_.end(); it = joined_.find(id)) id = it->second;
        return id;
    }

    bool lies_in(std::int64_t id, std::int64_t folder) const {
        std::size_t steps = 0;
        for (auto at = now(id); steps <= bound::folder_depth; ++steps) {
            if (at == now(folder)) return true;
            const auto it = folders_.find(at);
            if (it == folders_.end()) return false;
            at = now(it->second.parent);
        }
        return true;
    }

    const std::string& path_of(std::int64_t id) {
        auto& folder = folders_.at(id);
        if (!folder.path.empty()) return folder.path;
        const auto above = now(folder.parent);
        folder.path = folders_.count(above) ? joined_path(path_of(above), folder.name) : folder.name;
        return folder.path;
    }

    SQLite::Database& db_;
    int volume_;
    std::unordered_map<std::int64_t, Folder> folders_;
    std::unordered_map<std::int64_t, std::int64_t> joined_;
};

/// The latest of a group gets the names of the others, the latest first, and the content of the first that
/// has one.
void give_names(SQLite::Database& db, const std::vector<LostPlace>& group) {
    SQLite::Statement q(db, "SELECT evidence FROM entries WHERE id = ?");
    const auto evidence_of = [&](std::int64_t id) {
        q.reset();
        q.bind(1, id);
        return q.executeStep() ? unpack_evidence(blob_in(q, 0)) : std::vector<Evidence>();
    };
    const auto& latest = group.front();
    std::vector<Evidence> names;
    for (std::size_t i = 1; i < group.size(); ++i) {
        const auto order = is_known_later(group[i - 1], group[i]) ? 0 : old_name_bit::order_unknown;
        const auto certainty = group[i].certainty == NameCertainty::full ? 0 : old_name_bit::incomplete;
        names.push_back({Fact::old_name, group[i].slot, order | certainty, group[i].path()});
        for (auto& e : evidence_of(group[i].id)) {
            if (e.fact == Fact::old_name) names.push_back(std::move(e));
        }
    }
    const auto laid_out =
        std::find_if(group.begin(), group.end(), [](const LostPlace& p) { return p.layout != Layout::none; });
    // Whoever was read first may have the clusters, so that the others found them taken.
    const bool elsewhere = laid_out != group.begin() && laid_out != group.end();
    auto evidence = evidence_of(elsewhere ? laid_out->id : latest.id);
    evidence.insert(evidence.begin(), names.begin(), names.end());
    q.reset();
    if (elsewhere) {
        db.exec(fmt::format("UPDATE entries SET layout = {} WHERE id = {}",
                            static_cast<int>(laid_out->layout), latest.id));
        db.exec(fmt::format("DELETE FROM contents WHERE entry = {}", latest.id));
        db.exec(fmt::format("UPDATE contents SET entry = {} WHERE entry = {}", latest.id, laid_out->id));
    }
    SQLite::Statement u(db, "UPDATE entries SET evidence = ?, earlier_names = ? WHERE id = ?");
    const auto packed = pack_evidence(evidence);
    const auto earlier = pack_earlier_names(evidence);
    bind_blob(u, 1, packed);
    bind_optional_text(u, 2, earlier);
    u.bind(3, latest.id);
    u.exec();
}

}  // namespace

std::vector<LostPlace> ShelfWriter::lost_places(bool without_start) const {
    const auto lost = fmt::format("e.origin IN ({}, {})", static_cast<int>(Origin::deleted),
                                  static_cast<int>(Origin::former));
    const auto shared = "e.start IN (SELECT e.start FROM entries e WHERE e.start IS NOT NULL AND " + lost +
                        " GROUP BY e.volume, e.start HAVING count(*) > 1)";
    SQLite::Statement q(
        *db_,
        fmt::format("SELECT {} FROM entries e LEFT JOIN entries p ON p.id = e.folder WHERE {} AND "
                    "({}{})",
                    place_columns, lost, shared,
                    without_start ? " OR (e.start IS NULL AND e.is_dir = 0 AND e.stream IS NULL)" : ""));
    SQLite::Statement path(*db_, "SELECT path FROM folders WHERE id = ?");
    std::unordered_map<std::int64_t, std::shared_ptr<const std::string>> paths;
    std::vector<LostPlace> out;
    while (q.executeStep()) {
        auto& p = out.emplace_back(place_in(q));
        auto& in = paths[p.folder];
        if (!in) {
            path.reset();
            path.bind(1, p.folder);
            in = std::make_shared<const std::string>(path.executeStep() ? path.getColumn(0).getString() : "");
        }
        p.folder_path = in;
    }
    return out;
}

std::uint64_t ShelfWriter::unite(std::vector<std::vector<LostPlace>> groups) {
    std::map<int, FolderTree> trees;
    for (auto& group : groups) {
        if (!group.front().is_dir) continue;
        const int volume = group.front().volume;
        auto& tree = trees.try_emplace(volume, *db_, volume).first->second;
        const auto now = group.front().id;
        std::erase_if(group, [&](const LostPlace& p) { return p.id != now && !tree.join(p.id, now); });
    }
    // A tree that cannot be as it was stays as it is.
    std::erase_if(trees, [](const auto& tree) { return !tree.second.fits(); });
    std::erase_if(groups, [&](const auto& group) {
        return group.size() < 2 || (group.front().is_dir && !trees.count(group.front().volume));
    });
    make_twice(*db_);
    SQLite::Statement add(*db_, "INSERT OR IGNORE INTO twice VALUES(?,?)");
    std::uint64_t united = 0;
    for (const auto& group : groups) {
        give_names(*db_, group);
        for (std::size_t i = 1; i < group.size(); ++i, ++united) {
            add.reset();
            add.bind(1, group[i].id);
            add.bind(2, group.front().id);
            add.exec();
        }
    }
    add.reset();
    for (auto& [volume, tree] : trees) tree.write();
    set_aside_twice(*db_);
    return united;
}

void ShelfWriter::set_bin(std::int64_t entry, const std::string& first_path, const Sorting& first,
                          const MaybeTime& deleted) {
    SQLite::Statement s(*db_,
                        "UPDATE entries SET binned = 1, first_path = ?, deleted = coalesce(?, deleted), "
                        "zones = (zones & 16777215) | coalesce(?, zones & 4278190080) WHERE id = ?");
    bind_optional_text(s, 1, first_path);
    bind_time(s, 2, deleted);
    if (deleted) {
        s.bind(3, pack_zones({}, {}, {}, deleted));
    } else {
        s.bind(3);
    }
    s.bind(4, entry);
    s.exec();
    if (first.ext.empty()) return;
    SQLite::Statement k(
        *db_,
        "UPDATE entries SET ext = ?1, kind = ?2 WHERE id = ?3 AND is_dir = 0 AND link IS NULL "
        "AND ext <> ?1");
    k.bind(1, first.ext);
    k.bind(2, static_cast<int>(first.kind));
    k.bind(3, entry);
    k.exec();
}

void ShelfWriter::set_helper(std::int64_t entry) {
    SQLite::Statement s(*db_, "UPDATE entries SET helper = 1 WHERE id = ?");
    s.bind(1, entry);
    s.exec();
}

}  // namespace undershelf
