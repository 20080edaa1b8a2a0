// The part of the writer that is about volumes that are read again. Former ones are settled anew whenever
// more of a source is swept, present ones read once more when more of an image is copied; entries that are
// still told of keep their ids, what is not is set aside.

#include <fmt/format.h>

#include <algorithm>

#include "base/print.hpp"
#include "shelf/sql_words.hpp"
#include "shelf/writer_statements.hpp"

namespace undershelf {

namespace {

/// In what the keys of a volume's entries mean one thing: former volumes of a family share it, since settling
/// may put an entry of one into another.
std::string realm_of(const Volume& v) {
    return v.state == VolumeState::present ? fmt::format("{} {}", v.family, v.number) : v.family;
}

std::uint64_t print_of(std::string_view realm, const EntryKey& key, std::string_view stream,
                       std::string_view name) {
    return Print().add(realm).add(key.a).add(key.b).add(stream).add(name).value();
}

EntryKey key_in(SQLite::Statement& q, int column) {
    return {static_cast<std::uint64_t>(q.getColumn(column).getInt64()),
            static_cast<std::uint64_t>(q.getColumn(column + 1).getInt64())};
}

std::string text_in(SQLite::Statement& q, int column) {
    return q.getColumn(column).isNull() ? std::string() : q.getColumn(column).getString();
}

constexpr const char* former_volumes = "(SELECT number FROM volumes WHERE state = 'former' OR withdrawn = 1)";

}  // namespace

void ShelfWriter::take_out(const std::string& volumes, const std::string& realm) {
    // All of it is set aside first, so that no id is lost whenever this ends.
    db_->exec(worded(fmt::format(
        "INSERT OR REPLACE INTO set_aside SELECT e.id, e.volume, {}, e.key_a, e.key_b, "
        "coalesce(e.stream, ''), CASE e.is_dir WHEN 1 THEN '' ELSE e.name END, NULL FROM entries e JOIN "
        "volumes v ON v.number = e.volume WHERE e.volume IN {} AND e.origin <> #unnamed",
        realm, volumes)));
    for (const char* sql : {"DELETE FROM contents WHERE entry IN (SELECT id FROM entries WHERE volume IN {} "
                            "AND origin <> #unnamed)",
                            "DELETE FROM entries WHERE volume IN {} AND origin <> #unnamed",
                            "DELETE FROM folders WHERE volume IN {}", "DELETE FROM in_use WHERE volume IN {}",
                            "DELETE FROM diagnostics WHERE volume IN {}"})
        db_->exec(worded(fmt::format(fmt::runtime(sql), volumes)));
    remember_ids();
}

void ShelfWriter::remember_ids() {
    old_ids_.clear();
    SQLite::Statement q(*db_,
                        "SELECT id, family, key_a, key_b, stream, name FROM set_aside WHERE merged_into IS "
                        "NULL");
    while (q.executeStep())
        old_ids_.emplace(print_of(text_in(q, 1), key_in(q, 2), text_in(q, 4), text_in(q, 5)),
                         q.getColumn(0).getInt64());
}

void ShelfWriter::take_out_former() {
    take_out(former_volumes, "v.family");
}

void ShelfWriter::take_out_present(int number) {
    take_out(fmt::format("({})", number), "v.family || ' ' || v.number");
}

void ShelfWriter::read_present_again() {
    db_->exec("UPDATE volumes SET progress = 'again' WHERE state = 'present' AND progress = 'read'");
}

void ShelfWriter::read_again(int volume) {
    set_volume_progress(volume, "again");
}

std::int64_t ShelfWriter::id_for(const Volume& volume, const EntryKey& key, std::string_view stream,
                                 std::string_view name) {
    return id_in(realm_of(volume), key, stream, name);
}

std::int64_t ShelfWriter::id_in(const std::string& realm, const EntryKey& key, std::string_view stream,
                                std::string_view name) {
    if (old_ids_.empty()) return next_id();
    const auto [from, to] = old_ids_.equal_range(print_of(realm, key, stream, name));
    if (from == to) return next_id();
    // Of several the lowest, so that they come back in their order.
    const auto it =
        std::min_element(from, to, [](const auto& a, const auto& b) { return a.second < b.second; });
    const auto id = it->second;
    old_ids_.erase(it);
    auto& s = statements_->come_back;
    s.bind(1, id);
    s.exec();
    s.reset();
    return id;
}

std::uint64_t ShelfWriter::unmark_set_aside() {
    old_ids_.clear();
    const std::string gone = "(SELECT id FROM set_aside WHERE merged_into IS NULL)";
    const auto marked = db_->execAndGet(
        "SELECT count(*) FROM (SELECT entry FROM marks UNION SELECT entry FROM named_marks) WHERE entry IN " +
        gone);
    const auto out = static_cast<std::uint64_t>(marked.getInt64());
    for (const char* table : {"marks", "named_marks"})
        db_->exec(fmt::format("DELETE FROM {} WHERE entry IN {}", table, gone));
    return out;
}

}  // namespace undershelf
