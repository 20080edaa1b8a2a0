#include "cli/peek_drawing.hpp"

#include <fmt/format.h>

#include "answers/counts.hpp"
#include "answers/steps.hpp"
#include "base/batches.hpp"
#include "base/printable.hpp"
#include "cli/output.hpp"
#include "export/safe_names.hpp"
#include "preview/looking.hpp"
#include "scan/pieces_content.hpp"
#include "scan/source_identity.hpp"
#include "writing/files.hpp"
#include "writing/output_file.hpp"

namespace undershelf::cli {

namespace {

PictureWish wish_from(const po::variables_map& given) {
    constexpr std::uint64_t fewest = 16, most = 8192;
    const auto pixels = number_from(given, "pixels").value_or(512);
    if (pixels < fewest || pixels > most)
        throw Error(Trouble::usage,
                    fmt::format("--pixels takes a number from {} to {}, not {}.", fewest, most, pixels));
    return {static_cast<std::uint32_t>(pixels), PictureForm::png, 0};
}

/// The drawing of an entry, a card where it cannot be drawn.
struct Drawing {
    Drawn drawn;
    std::string file;
};

Drawing drawing_of(Drawings& drawings, const ShelfEntry& entry, Content& content, const PictureWish& wish) {
    Drawing out;
    const auto* format = format_to_draw(entry, content);
    out.drawn = draw_entry(drawings, entry, content, format, wish, out.file);
    if (out.drawn.shows == Shows::nothing) out.file = draw_card(drawings, entry, format, out.drawn.why, wish);
    return out;
}

}  // namespace

int draw_one(const Shelf& shelf, const ShelfEntry& entry, const Source& source,
             const po::variables_map& given) {
    const auto to = given["draw"].as<std::string>();
    Drawings drawings;
    SilentProgress progress;
    PiecesContent content(source, shelf.pieces(entry.id), entry.size, progress);
    const auto drawing = drawing_of(drawings, entry, content, wish_from(given));
    if (progress.stopped()) return interrupted;
    save_new_file(SourceGuard(source.path()), to, [&](OutputFile& out) { out.write(drawing.file); });
    const auto words = drawn_in_words(drawing.drawn);
    print("{}\n", without_controls(fmt::format("{} is drawn in {}{}{}", entry.path(), to,
                                               words.empty() ? "" : ": ", words)));
    return drawing.drawn.shows == Shows::nothing ? fell_short : done;
}

int draw_several(const Shelf& shelf, const po::variables_map& given) {
    const auto chosen = chosen_from(given, shelf);
    if (!tell_of_looking(shelf, chosen)) return interrupted;
    if (shelf.count(chosen.selection) == 0) {
        tell_why_nothing_fits(shelf, given);
        return fell_short;
    }
    const auto source = open_source_of(shelf, given["source"].as<std::string>());
    const auto to = given["draw"].as<std::string>();
    const auto wish = wish_from(given);
    const Folder folder(SourceGuard(source->path()), to);
    struct Job {
        ShelfEntry entry;
        std::vector<Piece> pieces;
        Drawing drawing;
    };
    std::vector<ShelfEntry> entries;
    shelf.for_each(chosen.selection, {}, [&](const ShelfEntry& e) {
        if (!e.is_dir && !e.link && e.layout != Layout::none) entries.push_back(e);
        return true;
    });
    Drawings drawings;
    std::optional<ProgressLine> line(std::in_place);
    auto& progress = *line;
    progress.stage("drawing");
    std::size_t next = 0, cards = 0, there = 0, written = 0;
    in_order<Job>(
        [&](Job& job) {
            if (next == entries.size() || progress.stopped()) return false;
            job.entry = std::move(entries[next++]);
            job.pieces = shelf.pieces(job.entry.id);
            return true;
        },
        [&](Job& job) {
            PiecesContent content(*source, std::move(job.pieces), job.entry.size, progress);
            job.drawing = drawing_of(drawings, job.entry, content, wish);
        },
        [&](Job&& job) {
            if (progress.stopped()) return;
            progress.at(written + there + 1, entries.size());
            const auto name = safe_component(fmt::format("{} {}.png", job.entry.id, job.entry.shown_name()));
            if (folder.status(name)) {
                ++there;
                return;
            }
            OutputFile out(folder, name + new_suffix);
            out.write(job.drawing.file);
            out.publish(name);
            ++written;
            cards += job.drawing.drawn.shows == Shows::nothing;
        });
    const bool stopped = progress.stopped();
    line.reset();
    print("{} in {}\n", counted(written, "drawing", "drawings"), without_controls(to));
    if (cards)
        print("of these, {} that cannot be drawn; they say why\n",
              counted(cards, "card for a file", "cards for files"));
    if (there)
        print("{} there already; nothing is overwritten\n", counted(there, "drawing was", "drawings were"));
    if (!stopped) return done;
    flush_out();
    note("undershelf: interrupted; the same command draws the others.\n");
    return interrupted;
}

}  // namespace undershelf::cli
