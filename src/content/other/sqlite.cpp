// SQLite (its file format, section 1): pages of one size, of which the head says how many there are. SQLite
// itself looks over a copy in memory: every page reachable, every b-tree well formed.

#include <fmt/format.h>
#include <sqlite3.h>

#include <memory>

#include "base/text.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/memory.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
constexpr auto magic = "SQLite format 3\0"sv;
constexpr std::uint64_t most_memory = 256 << 20;

struct Head {
    char header_string[16];
    boost::endian::big_uint16_buf_t page_size;
    std::uint8_t write_version, read_version, reserved, fractions[3];
    boost::endian::big_uint32_buf_t change_counter, pages, freelist_trunk, freelist_pages;
    boost::endian::big_uint32_buf_t more[8];
    std::uint8_t expansion[20];
    boost::endian::big_uint32_buf_t version_valid_for, library_version;
};
static_assert(sizeof(Head) == 100);

std::uint32_t page_size_of(const Head& head) {
    return head.page_size.value() == 1 ? 65536 : head.page_size.value();
}

class Sqlite final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto head = load<Head>(first);
        return {"sqlite", head && begins_with(first, magic) && is_power_of_two(page_size_of(*head)) &&
                                  page_size_of(*head) >= 512
                              ? 1.0
                              : 0.0};
    }

    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "sqlite";
        out.strength = Strength::fair;
        Cursor start(content);
        const auto head = start.take_structure<Head>();
        if (!head) return out.fails(0, "it ends within its head");
        const std::uint64_t page = page_size_of(*head);
        const auto size = size_of(*head, content.size());
        if (size == 0 || size > content.size())
            return out.fails(content.size() / page * page, "pages after its end are missing");
        if (size > most_memory) {
            out.finished = false;
            return out.fails(0, "it is larger than what is looked over in memory");
        }
        Opened db(content, size);
        if (db.missing_from) return out.fails(*db.missing_from / page * page, "bytes of it are missing");
        if (!db.whole) return out.fails(page, "its pages make no sense");
        const auto query = db.prepare("PRAGMA integrity_check(1)");
        if (!query) return out.fails(page, "its tables make no sense");
        if (sqlite3_step(query.get()) != SQLITE_ROW) return out.fails(page, "its pages make no sense");
        // Which of its pages are wrong is not told for certain.
        return text_in(query.get(), 0) == "ok" ? out.ends(size)
                                               : out.fails(page, "its pages do not fit together");
    }

    /// Tables with how many rows each has.
    void outline(Content& content, const TakeText& take) const override {
        Cursor start(content);
        const auto head = start.take_structure<Head>();
        const auto size = head ? std::min(size_of(*head, content.size()), content.size()) : 0;
        if (size == 0 || size > most_memory) return;
        Opened db(content, size);
        if (!db.whole) return;
        const auto tables = db.prepare(
            "SELECT name FROM sqlite_schema WHERE type = 'table' "
            "AND name NOT LIKE 'sqlite_%' ORDER BY rowid");
        Pieces out(take);
        while (tables && !out.enough() && sqlite3_step(tables.get()) == SQLITE_ROW) {
            const auto name = text_in(tables.get(), 0);
            const auto rows = rows_of(db, name);
            out.add(fmt::format("{:>16}  {}\n",
                                !rows        ? "rows unknown"
                                : *rows == 1 ? "1 row"
                                             : grouped(*rows) + " rows",
                                composed(name)));
        }
        out.flush();
    }

  private:
    using Query = std::unique_ptr<sqlite3_stmt, decltype(&sqlite3_finalize)>;

    /// Bytes. Older writers leave the number of pages as it was: then it is as long as it is.
    static std::uint64_t size_of(const Head& head, std::uint64_t there) {
        const std::uint64_t page = page_size_of(head);
        const bool told =
            head.change_counter.value() == head.version_valid_for.value() && head.pages.value() > 0;
        return told ? head.pages.value() * page : there / page * page;
    }

    static std::string text_in(sqlite3_stmt* row, int column) {
        const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(row, column));
        return text ? text : "";
    }

    /// A copy in memory of what is `size` bytes long.
    struct Opened {
        Opened(Content& content, std::uint64_t size) : memory(size), db(nullptr, sqlite3_close) {
            auto* bytes = static_cast<unsigned char*>(sqlite3_malloc64(size));
            if (!bytes) throw std::bad_alloc();
            const auto got = content.read(0, {bytes, static_cast<std::size_t>(size)});
            if (got < size) {
                sqlite3_free(bytes);
                missing_from = got;
                return;
            }
            // A database that was in use says so; in memory there is no log to go with it.
            bytes[18] = bytes[19] = 1;
            sqlite3* raw = nullptr;
            const int opened =
                sqlite3_open_v2(":memory:", &raw, SQLITE_OPEN_READWRITE | SQLITE_OPEN_NOMUTEX, nullptr);
            db.reset(raw);
            if (opened != SQLITE_OK) {
                sqlite3_free(bytes);
                throw std::bad_alloc();
            }
            sqlite3_db_config(raw, SQLITE_DBCONFIG_DEFENSIVE, 1, nullptr);
            const auto length = static_cast<sqlite3_int64>(size);
            whole = sqlite3_deserialize(raw, "main", bytes, length, length,
                                        SQLITE_DESERIALIZE_READONLY | SQLITE_DESERIALIZE_FREEONCLOSE) ==
                    SQLITE_OK;
        }
        Query prepare(const std::string& sql) const {
            sqlite3_stmt* statement = nullptr;
            sqlite3_prepare_v2(db.get(), sql.c_str(), -1, &statement, nullptr);
            return {statement, sqlite3_finalize};
        }

        MemoryClaim memory;
        std::unique_ptr<sqlite3, decltype(&sqlite3_close)> db;
        std::optional<std::uint64_t> missing_from;  ///< bytes of it that are there
        bool whole = false;
    };

    /// Nothing where they cannot be counted, or only with more steps than a table needs that is in memory.
    static std::optional<std::uint64_t> rows_of(const Opened& db, const std::string& table) {
        constexpr int most_steps = 200'000'000;
        sqlite3_progress_handler(
            db.db.get(), most_steps, [](void*) { return 1; }, nullptr);
        std::string quoted = "\"";
        for (const char c : table) quoted += c == '"' ? "\"\"" : std::string(1, c);
        const auto query = db.prepare("SELECT count(*) FROM " + quoted + "\"");
        if (!query || sqlite3_step(query.get()) != SQLITE_ROW) return std::nullopt;
        return static_cast<std::uint64_t>(sqlite3_column_int64(query.get(), 0));
    }
};

constexpr Format rows[] = {
    {.word = "sqlite",
     .name = "SQLite database",
     .kind = Kind::database,
     .extensions = " db sqlite sqlite3 db3 ",
     .shared = " db ",
     .family = "sqlite",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .holds_files = true,
     .marks = "SQ"sv},
};

}  // namespace

FormatRows sqlite_formats() {
    static const Sqlite reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
