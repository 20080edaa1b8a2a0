#pragma once
// Lost files around which other lost files lie. A file that was written while another one was there stepped
// over it, although both are gone now. Where a guess runs into the start of an older lost file, and that
// start still has its own bytes, the guess goes on after that file.

#include <functional>
#include <map>
#include <unordered_map>

#include "base/progress.hpp"
#include "clusters/lost_layout.hpp"
#include "source/source.hpp"
#include "volume/budget.hpp"
#include "volume/model.hpp"

namespace undershelf::clusters {

class LostSteps {
  public:
    LostSteps(const Source& source, const Grid& grid) : source_(source), grid_(grid) {}

    /// A lost file whose layout is guessed from its start, by `layout`, which must stay.
    void add_guessed(const Entry& entry, const LostLayout& layout, Cluster start, std::int64_t written);
    /// A lost file or folder that lies in these runs.
    void add_known(const Entry& entry, const std::vector<Run>& runs, std::int64_t written);

    struct Found {
        EntryKey key;
        std::vector<Run> runs;
        std::uint64_t stepped = 0;  ///< lost files that it steps over
    };
    /// Every guessed file that steps over lost ones, the older ones first, so that what lies around it is
    /// settled. Looks at the starts of older files that guesses run into, once each.
    void settle(Budget& budget, const Progress& progress, const std::function<void(Found&&)>& found);

  private:
    enum class Start : std::uint8_t { unseen, other, text, own };
    struct File {
        EntryKey key;
        std::uint64_t size = 0;  ///< bytes; 0: a folder
        std::int64_t written = 0;
        Cluster start = 0;
        std::uint32_t ext = 0;               ///< index of extensions_
        const LostLayout* layout = nullptr;  ///< by which it is guessed; null where it is known
        Start seen = Start::unseen;
    };
    using Index = std::uint32_t;

    void add(const Entry& entry, Cluster start, std::int64_t written, const LostLayout* layout);
    /// The first older file whose start is in the runs of `file`.
    const File* first_met(const std::vector<Run>& runs, const File& file);
    bool stands(File& older, const File& file);
    Start look_at(const File& file) const;
    bool is_text(const File& file) const;
    bool ends_as_text(const File& file) const;
    std::vector<Run> runs_of(const File& file) const;
    ByteVector first_bytes(const File& file) const;

    const Source& source_;
    Grid grid_;
    std::vector<File> files_;  ///< once they are settled, by start
    std::vector<std::string> extensions_;
    std::unordered_map<std::string, std::uint32_t> numbers_;
    std::map<EntryKey, std::vector<Run>> known_runs_;  ///< where they are not guessed afresh
    std::uint64_t looks_left_ = 0;
};

}  // namespace undershelf::clusters
