#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "capture/capture.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/progress_line.hpp"

namespace undershelf::cli {

namespace {

/// OFFSET,LENGTH
ByteRange range_from(const std::string& text) {
    const auto parts = split_list({text});
    if (parts.size() != 2)
        throw Error(Trouble::usage,
                    fmt::format("`{}` in --range is not OFFSET,LENGTH; write for example 0,512M.", text));
    const ByteRange out{size_from(parts[0], "range"), size_from(parts[1], "range")};
    if (out.empty() || out.offset + out.length < out.offset)
        throw Error(Trouble::usage, fmt::format("`{}` in --range is empty or too large.", text));
    return out;
}

std::string percent(std::uint64_t part, std::uint64_t all) {
    if (part == all) return "100 %";
    if (part && 1000.0 * static_cast<double>(part) < static_cast<double>(all)) return "<0.1 %";
    // Never rounded up to all.
    return fmt::format(
        "{:.1f} %",
        std::min(99.9, std::floor(1000.0 * static_cast<double>(part) / static_cast<double>(all)) / 10));
}

std::string exact(std::uint64_t bytes) {
    return bytes < 1024 ? human_size(bytes) : fmt::format("{} ({} bytes)", human_size(bytes), grouped(bytes));
}

/// One character a stretch of the source: the worst that any of its bytes came to.
std::string map_line(const Coverage& coverage, int width) {
    constexpr std::string_view marks = ".==~x";  // in the order of CoverageState
    constexpr std::string_view best_first = "=.~x";
    std::string line(static_cast<std::size_t>(width), '=');
    const auto cell = static_cast<double>(coverage.size()) / width;
    for (const auto& s : coverage.stretches()) {
        const auto mark = marks[static_cast<std::size_t>(s.state)];
        const auto first = static_cast<int>(static_cast<double>(s.range.offset) / cell);
        const auto last = static_cast<int>((static_cast<double>(s.range.end()) - 1) / cell);
        for (int i = first; i <= last && i < width; ++i) {
            auto& at = line[static_cast<std::size_t>(i)];
            if (best_first.find(mark) > best_first.find(at)) at = mark;
        }
    }
    return line;
}

void print_map(const CaptureResult& r, const Terminal& terminal) {
    if (r.image_holds == r.size) return;
    print("[{}]\n{}\n",
          terminal.styled(map_line(r.coverage, std::min(100, terminal.width() - 2)), Style::middle),
          terminal.styled(" =: copied   .: not asked for   ~: skipped   x: unreadable", Style::dim));
}

void print_states(const CaptureResult& r) {
    const auto line = [&](const char* what, std::uint64_t bytes, const std::string& more) {
        if (bytes)
            print("  {:<12} {:>10}  {:>7}  {}\n", what, human_size(bytes), percent(bytes, r.wanted), more);
    };
    const auto places = [&](CoverageState s) {
        return fmt::format("in {}", counted(r.stretches[static_cast<std::size_t>(s)], "place", "places"));
    };
    print("copied {} of {}, {}\n", exact(r.in_image()), exact(r.wanted), percent(r.in_image(), r.wanted));
    if (r.in_state(CoverageState::zeros))
        line("of it zeros", r.in_state(CoverageState::zeros), "holes in the image");
    line("unreadable", r.in_state(CoverageState::unreadable),
         places(CoverageState::unreadable) + ", asked for sector by sector");
    line("skipped", r.in_state(CoverageState::leapt),
         places(CoverageState::leapt) + ", failed in long reads and not narrowed down yet");
    line("waiting", r.in_state(CoverageState::waiting), "not asked for yet");
    if (r.wanted < r.size)
        print("the image holds {} of the source's {} so far\n", human_size(r.image_holds),
              human_size(r.size));
}

void print_structures(const std::vector<StructureCoverage>& volumes) {
    for (const auto& v : volumes) {
        const auto name = fmt::format("volume {}, {}{}", v.volume.number, v.volume.file_system,
                                      v.volume.label.empty() ? "" : " “" + fitted(v.volume.label, 40) + "”");
        if (v.parts.empty()) {
            print("{}: the file system's tables are complete\n", name);
            continue;
        }
        std::string what;
        for (const auto& p : v.parts) {
            const auto missing = p.unreadable && p.not_copied
                                     ? fmt::format("{} unreadable, {} not copied yet",
                                                   human_size(p.unreadable), human_size(p.not_copied))
                                     : fmt::format("{} {}", human_size(p.unreadable + p.not_copied),
                                                   p.unreadable ? "unreadable" : "not copied yet");
            what += fmt::format("{}of the {} {}", what.empty() ? "" : "; ", p.what, missing);
        }
        print("{}: {}\n", name, what);
    }
}

void print_files(const FileCoverage& f, const std::string& shelf) {
    print("{} in {}: {} complete", counted(f.files, "file", "files"), shelf, grouped(f.complete));
    if (f.unreadable)
        print(", {} {} unreadable places", grouped(f.unreadable), f.unreadable == 1 ? "touches" : "touch");
    if (f.waiting) print(", {} not copied to the end yet", grouped(f.waiting));
    print("\n");
}

std::uint64_t count_from(const po::variables_map& given, const char* option, std::uint64_t most) {
    const auto n = number_from(given, option).value_or(0);
    if (n > most) throw Error(Trouble::usage, fmt::format("--{} takes at most {}.", option, most));
    return n;
}

CaptureOptions options_from(const po::variables_map& given) {
    const auto text = [&](const char* option) {
        return given.count(option) ? given[option].as<std::string>() : std::string();
    };
    CaptureOptions out;
    out.source_path = text(":SOURCE");
    out.image_path = text(":IMAGE");
    out.coverage_path = text("coverage");
    out.simulation = text("simulate");
    out.reads_list = text("reads");
    out.metadata_first = given.count("metadata-first") > 0;
    out.metadata_only = given.count("metadata-only") > 0;
    out.hash = given.count("hash") > 0;
    out.passes.from_end = given.count("from-end") > 0;
    out.passes.again = static_cast<unsigned>(count_from(given, "again", 1000));
    if (given.count("patience"))
        out.copy.patience = std::chrono::milliseconds(count_from(given, "patience", 3'600'000));
    if (given.count("limit")) out.copy.most_per_second = size_from(text("limit"), "limit");
    if (given.count("split")) {
        out.part_size = size_from(text("split"), "split");
        if (out.part_size < (1 << 20) || out.part_size % (1 << 20))
            throw Error(Trouble::usage, "--split takes whole MiB, for example 4G or 700M.");
    }
    if (given.count("range")) {
        for (const auto& r : given["range"].as<std::vector<std::string>>())
            out.ranges.push_back(range_from(r));
    }
    if (out.metadata_only && (given.count("from") || !out.ranges.empty()))
        throw Error(Trouble::usage, "--metadata-only cannot be combined with --from or --range.");
    const auto selection = selection_from(given);
    if (given.count("from")) {
        out.shelf_path = text("from");
        out.files = selection;
        if (!out.ranges.empty()) throw Error(Trouble::usage, "Give --range or --from, not both.");
        if (given.count("shelf"))
            throw Error(Trouble::usage, "--from names the shelf already; leave --shelf out.");
    } else {
        out.shelf_path = text("shelf");
        if (!selection.selects_all())
            throw Error(Trouble::usage,
                        "A selection of files goes with --from SHELF, which says what they need.");
    }
    return out;
}

po::options_description capture_options() {
    po::options_description out("Options");
    out.add_options()("coverage", value("FILE"),
                      "where it is kept what has been copied (default: IMAGE.coverage.csv)")(
        "metadata-first", "partition maps, heads and the file systems' own structures before the rest")(
        "metadata-only", "these alone: names can be looked through before the rest is asked for")(
        "from", value("SHELF"),
        "a shelf of this source: copy only what its files, or the selected ones, need; small and undamaged "
        "first")("shelf", value("SHELF"),
                 "a shelf of this source, to say at the end how many files are complete")(
        "range", values("OFFSET,LENGTH"),
        "OFFSET,LENGTH: copy only that stretch; may be given several times")(
        "again", value("TRIES"), "so many more tries for each sector that cannot be read")(
        "patience", value("MS"),
        "milliseconds (default 1000): after a slower read the next places are skipped as if it had failed")(
        "from-end", "begin at the end of the source")("limit", value("RATE"),
                                                      "bytes a second, as 10M: for drives that need rest")(
        "split", value("SIZE"), "write parts IMAGE.001, IMAGE.002, ... of this size, as 4G")(
        "hash", "a SHA-256 of the whole image as well, once everything is copied")(
        "simulate", value("FILE"),
        "CSV of `offset,length,behaviour`: let the source fail like a broken drive, for tests and training")(
        "reads", value("FILE"), "write every read of the source into this CSV");
    add_script_options(out, false);
    out.add(color_option());
    return out;
}

int run(const std::vector<std::string>& arguments) {
    const auto given = parse(capture_command(), capture_options(), {"SOURCE", "IMAGE"}, arguments);
    if (!given) return done;
    auto options = options_from(*given);
    refuse_shelf(options.source_path);
    warn_of_mounts(options.source_path);
    if (options.files) {
        const Shelf shelf(options.shelf_path);
        const auto chosen = choose_from(*options.files, *given, shelf);
        if (!tell_of_looking(shelf, chosen)) return interrupted;
        options.files = chosen.selection;
        if (shelf.count(*options.files) == 0) tell_why_nothing_fits(shelf, *given);
    }
    CaptureResult r;
    {
        ProgressLine progress(true, progress_form(*given));
        r = capture(options, progress);
    }
    const auto& image = r.image_files.front();
    if (r.wanted == 0 && r.lost.empty() && !r.interrupted) {
        print("{}; nothing was copied.\n", options.metadata_only
                                               ? "No file system that this version reads was found"
                                               : "Nothing selected has bytes on the source");
        return fell_short;
    }
    print_map(r, terminal_from(*given));
    print_states(r);
    if (r.image_files.size() > 1)
        print("{} to {}, coverage in {}\n", image, r.image_files.back(), r.coverage_path);
    else
        print("{}, coverage in {}\n", image, r.coverage_path);
    print_structures(r.structures);
    if (r.files) print_files(*r.files, options.shelf_path);
    if (!r.sha256.empty()) print("SHA-256 {}\n", r.sha256);
    flush_out();
    if (options.hash && r.sha256.empty() && !r.interrupted)
        note("undershelf: No hash of the whole image: it is incomplete. Finished blocks have theirs.\n");
    for (const auto& n : r.notes) note("undershelf: {}\n", n);
    if (!r.lost.empty()) note("undershelf: {}\n", r.lost);
    if (r.interrupted) {
        note("undershelf: interrupted. What was copied is kept; the same command goes on from there.\n");
        return interrupted;
    }
    if (r.in_state(CoverageState::unreadable) && r.lost.empty() && options.passes.again == 0)
        note(
            "undershelf: not everything could be read. The same command with --again 1 tries each of these "
            "sectors "
            "once more; on a dying drive that may cost others.\n");
    print("next: undershelf scan {}\n", image);
    return r.complete() && r.lost.empty() && r.notes.empty() ? done : status_for_scripts(fell_short, *given);
}

}  // namespace

Command capture_command() {
    Command out{"capture", "SOURCE IMAGE", "copy a source into an image, around what cannot be read", run,
                true};
    out.selects = true;
    return out;
}

}  // namespace undershelf::cli
