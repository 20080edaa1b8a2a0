#include "report/facts.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fstream>

#include "answers/facts.hpp"
#include "answers/grade_words.hpp"
#include "answers/summary_json.hpp"
#include "base/amounts.hpp"
#include "base/saturating.hpp"
#include "report/history.hpp"
#include "scan/pieces_content.hpp"

namespace undershelf {

namespace {

constexpr std::size_t map_parts = 240, most_folders = 20, most_doubtful = 12, most_previews = 12;

void add(Counts& to, const ShelfEntry& e) {
    ++to.files;
    to.bytes = saturating_add(to.bytes, e.size);
    ++to.by_grade[e.rated == Rated::yes ? static_cast<std::size_t>(e.rating.grade) : 0];
}

void add_month(Months& to, const MaybeTime& time) {
    if (time) ++to[static_cast<int>(date_number(*time, GroupBy::month))];
}

std::size_t size_class(std::uint64_t size, std::size_t classes) {
    std::size_t out = 0;
    for (std::uint64_t most = 256; out + 1 < classes && size > most; most *= 4) ++out;
    return out;
}

/// Goes once over all files of the shelf, and over those that are reported.
class Gathering {
  public:
    Gathering(const Shelf& shelf, const ReportOptions& options, Progress& progress, ReportFacts& out)
        : shelf_(shelf), options_(options), progress_(progress), out_(out) {}

    void run() {
        History history(out_.volumes);
        std::optional<WantedList> wanted;
        if (!options_.wanted.empty()) {
            std::ifstream in(options_.wanted);
            if (!in) throw Error(Trouble::usage, fmt::format("{} cannot be read.", options_.wanted));
            wanted.emplace(in, options_.wanted);
        }
        shelf_.for_each({}, {}, [&](const ShelfEntry& e) {
            if (e.system || e.link) return true;
            history.look_at(e);
            if (wanted && !e.is_dir) wanted->look_at(e);
            return !progress_.stopped();
        });
        shelf_.for_each(options_.selection, {}, [&](const ShelfEntry& e) {
            if (!e.is_dir && !e.link && !e.system) take(e);
            return !progress_.stopped();
        });
        if (wanted) out_.wanted = wanted->lines();
        out_.happened = history.sentences(facts_of(shelf_, Asked::summary));
        for (const auto& e : out_.most_doubtful) out_.doubts.push_back(reason_of(shelf_, e));
        auto groups = groups_to_show(shelf_, options_.selection, GroupBy::folder, 2);
        std::stable_sort(groups.begin(), groups.end(),
                         [](const Group& a, const Group& b) { return a.counts.files > b.counts.files; });
        if (groups.size() > most_folders) groups.resize(most_folders);
        out_.folders = std::move(groups);
        draw_map();
    }

    /// Files that are worth a look: pictures, films and pages that are sure to open, spread over all.
    const std::vector<std::int64_t>& worth_a_look() const { return seen_; }

  private:
    void take(const ShelfEntry& e) {
        ++out_.files;
        out_.bytes = saturating_add(out_.bytes, e.size);
        add(out_.kinds[e.kind], e);
        add(out_.origins[e.origin], e);
        ++out_.sizes[size_class(e.size, out_.sizes.size())];
        add_month(out_.created, e.created);
        add_month(out_.changed, e.modified);
        add_month(out_.deleted, e.deleted);
        if (e.rated != Rated::yes) return;
        const auto tenth =
            std::min<std::size_t>(9, static_cast<std::size_t>(std::max(0.0, e.rating.chance * 10)));
        ++out_.chances[tenth];
        out_.chance_sums[tenth] += e.rating.chance;
        if (e.rating.grade < Grade::likely) return;
        keep_doubtful(e);
        const bool shown = e.kind == Kind::picture || e.kind == Kind::video || e.kind == Kind::document;
        if (shown && e.size > 0) keep_seen(e);
    }

    void keep_doubtful(const ShelfEntry& e) {
        auto& all = out_.most_doubtful;
        const auto less = [](const ShelfEntry& a, const ShelfEntry& b) {
            return std::tie(a.rating.chance, a.id) < std::tie(b.rating.chance, b.id);
        };
        if (all.size() == most_doubtful && !less(e, all.back())) return;
        all.insert(std::upper_bound(all.begin(), all.end(), e, less), e);
        if (all.size() > most_doubtful) all.pop_back();
    }

    /// Every n-th, n growing, so that they are from everywhere and always the same.
    void keep_seen(const ShelfEntry& e) {
        if (worth_++ % every_ != 0) return;
        seen_.push_back(e.id);
        if (seen_.size() < 2 * most_previews) return;
        for (std::size_t i = 0; i < most_previews; ++i) seen_[i] = seen_[2 * i];
        seen_.resize(most_previews);
        every_ *= 2;
    }

    void draw_map() {
        const auto size = std::max<std::uint64_t>(1, out_.source.size);
        const auto parts = static_cast<std::size_t>(std::min<std::uint64_t>(map_parts, size));
        std::vector<std::array<std::uint64_t, holders>> bytes(parts);
        const auto mark = [&](const ByteRange& range, Holder holder) {
            const auto end =
                std::min(range.offset + std::min(range.length, size - std::min(size, range.offset)), size);
            for (auto at = range.offset; at < end;) {
                const auto part = std::min(
                    parts - 1, static_cast<std::size_t>(static_cast<double>(at) / static_cast<double>(size) *
                                                        static_cast<double>(parts)));
                const auto part_end =
                    std::max(at + 1, static_cast<std::uint64_t>(static_cast<double>(part + 1) *
                                                                static_cast<double>(size) /
                                                                static_cast<double>(parts)));
                const auto to = std::min(end, part_end);
                bytes[part][static_cast<std::size_t>(holder)] += to - at;
                at = to;
            }
        };
        for (const auto& range : out_.unreadable.ranges()) mark(range, Holder::unreadable);
        shelf_.for_each_claim([&](Origin origin, Grade, const std::vector<ByteRange>& claims) {
            const auto holder = origin == Origin::live      ? Holder::live
                                : origin == Origin::deleted ? Holder::lost
                                : origin == Origin::former  ? Holder::former
                                                            : Holder::unnamed;
            for (const auto& range : claims) mark(range, holder);
        });
        for (std::size_t i = 0; i < parts; ++i) {
            // Several may claim the same bytes: the first has them, the next what is left.
            auto left = size / parts + (i < size % parts ? 1 : 0);
            std::array<std::uint64_t, holders> row{};
            for (std::size_t h = 0; h + 1 < holders; ++h) {
                row[h] = std::min(left, bytes[i][h]);
                left -= row[h];
            }
            row[holders - 1] = left;
            out_.map.push_back(row);
        }
    }

    const Shelf& shelf_;
    const ReportOptions& options_;
    Progress& progress_;
    ReportFacts& out_;
    std::vector<std::int64_t> seen_;
    std::uint64_t worth_ = 0, every_ = 1;
};

void draw_previews(const Shelf& shelf, const Source& source, const std::vector<std::int64_t>& ids,
                   Drawings& drawings, Progress& progress, ReportFacts& out) {
    constexpr PictureWish wish{.pixels = 320, .form = PictureForm::jpeg, .most_bytes = 20 << 10};
    for (const auto id : ids) {
        if (out.previews.size() == most_previews || progress.stopped()) return;
        auto entry = shelf.entry(id);
        if (!entry) continue;
        ReportPreview preview;
        PiecesContent content(source, shelf.pieces(id), entry->size, progress);
        preview.drawn =
            draw_entry(drawings, *entry, content, format_to_draw(*entry, content), wish, preview.picture);
        preview.entry = std::move(*entry);
        if (preview.drawn.shows == Shows::whole || preview.drawn.shows == Shows::embedded)
            out.previews.push_back(std::move(preview));
    }
}

}  // namespace

std::string_view words_of(Holder holder) {
    constexpr std::array<std::string_view, holders> words{
        "cannot be read",         "files that are there", "deleted files", "files from before a format",
        "contents without names", "unallocated"};
    return words[static_cast<std::size_t>(holder)];
}

ReportFacts gather_facts(const Shelf& shelf, const Source* source, const ReportOptions& options,
                         Drawings& drawings, Progress& progress) {
    ReportFacts out;
    out.title = options.title;
    out.case_name = options.case_name;
    out.by = options.by;
    out.made = options.made;
    out.version = options.version;
    out.shelf = shelf.path();
    out.identity = shelf.identity();
    out.source = shelf.source();
    out.source_name = std::filesystem::path(out.source.path).filename().string();
    out.by_volume = rows_of(shelf, Shelf::TallyBy::volume);
    out.volumes = best_first(shelf.volumes(), out.by_volume);
    out.unreadable = shelf.unreadable_for_good();
    out.not_copied = shelf.not_copied();
    out.summary = summary_json(shelf);
    progress.stage("counting");
    Gathering gathering(shelf, options, progress, out);
    gathering.run();
    for (const auto& bag : options.bags) out.bags.push_back(read_handed_over(shelf, bag, progress));
    progress.stage("drawing");
    if (source)
        draw_previews(shelf, *source, gathering.worth_a_look(), drawings, progress, out);
    else
        out.no_previews = "the source is not where it was";
    return out;
}

}  // namespace undershelf
