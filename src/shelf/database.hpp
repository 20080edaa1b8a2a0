#pragma once
// Opening the SQLite file that a shelf is. Whatever is in the file is input: a shelf that was cut off is put
// right, one that holds anything but a shelf's tables is refused.

#include <SQLiteCpp/SQLiteCpp.h>

#include <chrono>
#include <memory>
#include <string>

#include "base/error.hpp"
#include "writing/source_guard.hpp"

namespace undershelf {

/// The longest text or blob of a shelf, bytes.
constexpr int longest_shelf_value = 64 << 20;

/// For reading. What a cut left of a last step is undone or finished first, for which the file is opened for
/// writing once. Throws Error: `input` when there is no shelf, or something else, or a damaged one, or one of
/// a later version; `refused` when putting it right would change its own source.
std::unique_ptr<SQLite::Database> open_shelf_to_read(const std::string& path);

/// For writing small changes to a finished or growing shelf. Throws as above, and `refused` where the shelf
/// is on its own source.
std::unique_ptr<SQLite::Database> open_shelf_to_mark(const std::string& path);

/// To write while a scan runs: it lets go of the shelf for a moment every now and then, and asking often
/// enough meets that moment. Waits `most` at most.
void wait_for_a_moment(SQLite::Database& db, std::chrono::seconds most = std::chrono::seconds(30));

/// Does a file begin as a shelf does? Nothing of it is trusted.
bool is_shelf_file(const std::string& path);

/// What is at `path`, for one who is about to scan into it.
enum class ShelfFile : std::uint8_t {
    missing,
    begun,  ///< empty, or cut off before there was anything in it: it is begun again
    shelf,
};
/// Throws Error(input) when something else is there.
ShelfFile look_at_shelf(const std::string& path);

/// The settings of every connection: what is in the file is not trusted.
void distrust(SQLite::Database& db);

/// What a failure of the database means, as a sentence for whoever asked: no room is Trouble::output.
Error shelf_error(const std::string& path, const SQLite::Exception& failure);
/// Somebody else is writing to it: who, as far as the system tells.
Error shelf_is_held(const std::string& path);
[[noreturn]] void damaged_shelf(const std::string& path, const std::string& what);

}  // namespace undershelf
