#include "scan/containing.hpp"

#include <new>

#include "base/batches.hpp"
#include "base/error.hpp"
#include "content/apart.hpp"
#include "content/words.hpp"
#include "scan/pieces_content.hpp"

namespace undershelf {

namespace {

constexpr std::uint64_t most_text = 64 << 20;  ///< bytes of each file's text

struct Wanted {
    std::int64_t id = 0;
    std::uint64_t size = 0;  ///< bytes that hold
};
struct Job {
    Wanted file;
    std::vector<Piece> pieces;
    std::string title;
    bool holds = false;
};

std::string title_of(const Shelf& shelf, std::int64_t entry) {
    for (const auto& e : shelf.evidence(entry)) {
        if (e.fact == Fact::title_inside) return e.text;
    }
    return {};
}

bool holds_words(ContentReading& reading, Content& content, const std::string& title,
                 const WordSearch& search) {
    WordSearch::Text text(search);
    if (text.take(title)) return true;
    std::uint64_t seen = 0;
    try {
        reading.text(content, [&](std::string_view piece) {
            seen += piece.size();
            return text.take(piece) || seen >= most_text;
        });
    } catch (const std::bad_alloc&) {
        // One content that asks for too much ends nothing but the look at itself.
        return false;
    }
    return text.all_found();
}

}  // namespace

Containing find_containing(const Source& source, const Shelf& shelf, const Selection& selection,
                           const std::string& words, Progress& progress) {
    const WordSearch search(words);
    if (search.size() == 0) throw Error(Trouble::usage, "--containing names no word to look for.");
    Containing out;
    std::vector<Wanted> files;
    shelf.for_each(selection, {}, [&](const ShelfEntry& e) {
        if (e.is_dir || e.link || e.size == 0 || e.layout == Layout::none || e.rating.grade == Grade::gone)
            return true;
        if (e.checked) {
            files.push_back({e.id, e.complete.value_or(false) ? e.size : e.holds_to.value_or(0)});
        } else {
            ++(e.origin == Origin::live ? out.unchecked_live : out.unchecked_lost);
        }
        return true;
    });
    DecodersApart decoders;
    progress.stage("looking for words");
    std::uint64_t done = 0;
    std::size_t next = 0;
    in_order<Job>(
        [&](Job& job) {
            if (next == files.size() || progress.stopped()) return false;
            job.file = files[next++];
            job.pieces = shelf.pieces(job.file.id);
            job.title = title_of(shelf, job.file.id);
            return true;
        },
        [&](Job& job) {
            PiecesContent content(source, std::move(job.pieces), job.file.size, progress);
            job.holds = holds_words(decoders, content, job.title, search);
        },
        [&](Job&& job) {
            ++out.files;
            if (job.holds) out.entries.insert(job.file.id);
            progress.at(++done, files.size());
        });
    out.interrupted = progress.stopped();
    return out;
}

}  // namespace undershelf
