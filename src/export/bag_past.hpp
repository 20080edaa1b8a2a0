#pragma once
// What a folder holds of the exports into it so far. Looks only.

#include <functional>

#include "export/bag_info.hpp"
#include "export/exported_entry.hpp"
#include "shelf/shelf.hpp"

namespace undershelf {

/// Who may add to a bag: exports from the same shelf. `job` names what is exported.
struct BagOwner {
    std::string shelf;                 ///< Shelf::identity()
    SourceRecord source;               ///< by which bags of earlier versions tell their shelf
    std::string job;                   ///< describe_job()
    std::vector<std::string> command;  ///< as it was typed, for whoever finds the bag interrupted
};

enum class BagState : std::uint8_t { untouched, unfinished, finished };

class BagPast {
  public:
    /// `folder` must outlive this. Throws Error(refused) when there is something else in it than an export of
    /// this owner, or tag files that are not as they were written: what is added would hide that.
    BagPast(const Folder& folder, const BagOwner& owner);

    /// Of the last round.
    BagState state() const { return state_; }
    /// Shelf and finished rounds.
    const BagInfo& info() const { return info_; }
    unsigned next_round() const { return info_.rounds.empty() ? 1 : info_.rounds.back().number + 1; }

    /// The lines of the finished rounds.
    using Visit = std::function<void(const std::string& line, LineGist&& gist)>;
    void each_finished(const Visit& visit) const;
    /// The last line of each entry in an unfinished round, in the order of the first; the second says whether
    /// its content was on the drive then.
    std::vector<std::pair<ExportedEntry, bool>> unfinished() const;
    /// Is the file of a finished round's line still there, with its length and as what it was?
    bool is_there(const LineGist& line) const;

  private:
    bool is_untouched() const;
    void check_owner(const BagOwner& owner) const;
    void check_journal(const BagOwner& owner) const;
    void check_tags() const;

    const Folder& folder_;
    BagState state_ = BagState::untouched;
    BagInfo info_;
};

/// The first line of a journal.
std::string journal_header(const BagOwner& owner, unsigned round);

/// A round that was interrupted, as its bag tells of it.
struct UnfinishedRound {
    std::vector<std::string>
        command;                      ///< that goes on with it, without the program's name; empty for unknown
    std::vector<LineGist> lines;      ///< of files with a place in the bag
    std::vector<std::int64_t> parts;  ///< entries of which something was written, and no line
};
/// Nothing where the last round is finished.
std::optional<UnfinishedRound> unfinished_round_in(const Folder& bag);

}  // namespace undershelf
