#pragma once
// What mending goes by: who is sure of which bytes of the source, and which contents may lie otherwise than
// they are taken to.

#include <map>
#include <set>
#include <string>
#include <vector>

#include "mend/deal.hpp"
#include "scan/narrowing.hpp"
#include "shelf/writer.hpp"

namespace undershelf {

/// A content that does not hold where it is taken to lie.
struct MendCandidate {
    std::int64_t id = 0;
    int volume = 0;
    BrokenContent broken;
    std::uint64_t recorded_size = 0;  ///< bytes
    std::string before, ext;          ///< `before`: how it lies, in words
};

/// When a lost file was written: from its creation to its last change, in ticks. Of a former volume it may
/// have been there up to the end: such files had no cluster in common.
struct Written {
    std::int64_t from = 0, to = 0;
    bool kept = false;
};
/// May both have been open at one time?
bool open_at_once(const Written& a, const Written& b);

/// A lost file whose first cluster and length are recorded and not the rest, and which no check has proven.
struct OpenFile {
    std::int64_t id = 0;
    DealtFile file;
    std::vector<ByteRange> lies;  ///< as it is taken to
    Written written;
    std::string ext;
    bool wanted = false;  ///< it may be laid out anew
};

struct MendScene {
    std::map<int, Volume> volumes;
    RangeSet firm;   ///< of live files, folders, and contents that are proven
    RangeSet sure;   ///< these, and where recorded layouts are
    RangeSet taken;  ///< these, what holds by a weak check, and the recorded first clusters of all others
    std::vector<MendCandidate> broken;          ///< the best founded first
    std::map<int, std::vector<OpenFile>> open;  ///< by volume, ascending by start
    /// Where lost files are that are proven, ascending, with when they were written.
    std::vector<std::pair<ByteRange, Written>> proven;
};

struct MendSelection {
    bool unnamed = false;      ///< contents without names, else those with one
    Selection selection = {};  ///< of these
    Narrowing contents = {};   ///< whose content is one of these
};

/// Looks through the shelf. Ends early once `progress` says so.
MendScene look_for_mending(ShelfWriter& shelf, const MendSelection& of, const Progress& progress);

/// `it was taken to lie in one run`.
std::string lies_in_words(std::size_t runs);

}  // namespace undershelf
