// SQLite (its file format, section 1): pages of one size, of which the head says how many there are. SQLite
// itself looks over a copy in memory: every page reachable, every b-tree well formed.

#include <sqlite3.h>

#include <memory>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/memory.hpp"

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
        Cursor at(content);
        const auto head = at.take_structure<Head>();
        if (!head) return out.fails(0, "it ends within its head");
        const std::uint64_t page = page_size_of(*head);
        // Older writers leave the number of pages as it was: then it is as long as it is.
        const bool told =
            head->change_counter.value() == head->version_valid_for.value() && head->pages.value() > 0;
        const auto size = told ? head->pages.value() * page : content.size() / page * page;
        if (size == 0 || size > content.size())
            return out.fails(content.size() / page * page, "pages after its end are missing");
        if (size > most_memory) {
            out.finished = false;
            return out.fails(0, "it is larger than what is looked over in memory");
        }
        const MemoryClaim memory(size);
        auto* bytes = static_cast<unsigned char*>(sqlite3_malloc64(size));
        if (!bytes) throw std::bad_alloc();
        const auto got = content.read(0, {bytes, static_cast<std::size_t>(size)});
        if (got < size) {
            sqlite3_free(bytes);
            return out.fails(got / page * page, "bytes of it are missing");
        }
        // A database that was in use says so; in memory there is no log to go with it.
        bytes[18] = bytes[19] = 1;
        return look_over(bytes, size, page, out);
    }

  private:
    /// Takes `bytes`.
    static Check look_over(unsigned char* bytes, std::uint64_t size, std::uint64_t page, Check& out) {
        sqlite3* raw = nullptr;
        const int opened =
            sqlite3_open_v2(":memory:", &raw, SQLITE_OPEN_READWRITE | SQLITE_OPEN_NOMUTEX, nullptr);
        const std::unique_ptr<sqlite3, decltype(&sqlite3_close)> db(raw, sqlite3_close);
        if (opened != SQLITE_OK) {
            sqlite3_free(bytes);
            throw std::bad_alloc();
        }
        sqlite3_db_config(raw, SQLITE_DBCONFIG_DEFENSIVE, 1, nullptr);
        const auto length = static_cast<sqlite3_int64>(size);
        if (sqlite3_deserialize(raw, "main", bytes, length, length,
                                SQLITE_DESERIALIZE_READONLY | SQLITE_DESERIALIZE_FREEONCLOSE) != SQLITE_OK)
            return out.fails(page, "its pages make no sense");
        sqlite3_stmt* statement = nullptr;
        if (sqlite3_prepare_v2(raw, "PRAGMA integrity_check(1)", -1, &statement, nullptr) != SQLITE_OK)
            return out.fails(page, "its tables make no sense");
        const std::unique_ptr<sqlite3_stmt, decltype(&sqlite3_finalize)> query(statement, sqlite3_finalize);
        if (sqlite3_step(statement) != SQLITE_ROW) return out.fails(page, "its pages make no sense");
        const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(statement, 0));
        const std::string_view said = text ? text : "";
        if (said == "ok") return out.ends(size);
        // Which of its pages are wrong is not told for certain.
        return out.fails(page, "its pages do not fit together");
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
