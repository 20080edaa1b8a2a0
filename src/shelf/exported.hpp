#pragma once
// What was exported, with the revision of its layout: so that lists and summaries can say what is left.

#include <SQLiteCpp/Database.h>

#include <cstdint>
#include <vector>

namespace undershelf {

/// Nobody comes near it; what a shelf says beyond that counts as that.
constexpr int highest_revision = 1'000'000'000;

/// An entry that has a file in a bag, as it was laid out at this revision.
struct ExportedRevision {
    std::int64_t entry = 0;
    int revision = 0;
};

/// Notes that an export (its number in `jobs`) has written these. Entries that the shelf does not have are
/// passed over.
void remember_exported(SQLite::Database& db, std::int64_t job, const std::vector<ExportedRevision>& entries);

/// After contents were laid out anew: an entry whose layout is another one than that which was exported gets
/// a higher revision, one whose layout is the same keeps it. So its revision tells whether what was exported
/// is what there is now.
void settle_exported(SQLite::Database& db);

}  // namespace undershelf
