#include <fmt/format.h>
#include <zlib.h>

#include <filesystem>
#include <fstream>

#include "answers/steps.hpp"
#include "base/bytes.hpp"
#include "base/timestamp.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/under_way.hpp"

namespace undershelf::cli {

namespace {

namespace fs = std::filesystem;

constexpr const char* marker = ".undershelf-demo";

/// Where the shipped volumes are: beside the program once installed, else in its source tree.
fs::path demo_volumes() {
    std::error_code ec;
    const auto installed =
        fs::read_symlink("/proc/self/exe", ec).parent_path().parent_path() / "share" / "undershelf" / "demo";
    return fs::is_directory(installed, ec) ? installed : fs::path(UNDERSHELF_DEMO_DIR);
}

/// Unpacks a gzip file; blocks of zeros become holes.
void unpack(const fs::path& from, const fs::path& to) {
    const gzFile in = gzopen(from.c_str(), "rb");
    std::ofstream out(to, std::ios::binary | std::ios::trunc);
    if (!in || !out)
        throw Error(Trouble::input,
                    fmt::format("The demo volume {} cannot be unpacked to {}.", from.string(), to.string()));
    ByteVector block(64 << 10);
    std::uint64_t size = 0;
    int n = 0;
    while ((n = gzread(in, block.data(), static_cast<unsigned>(block.size()))) > 0) {
        const auto part = Bytes(block).first(static_cast<std::size_t>(n));
        if (all_zero(part)) {
            out.seekp(n, std::ios::cur);
        } else {
            out.write(reinterpret_cast<const char*>(part.data()), n);
        }
        size += part.size();
    }
    gzclose(in);
    out.close();
    if (n < 0 || !out)
        throw Error(Trouble::input,
                    fmt::format("The demo volume {} cannot be unpacked to {}; check the free space there.",
                                from.string(), to.string()));
    fs::resize_file(to, size);
}

void make_folder(const fs::path& folder) {
    std::error_code ec;
    if (fs::exists(folder, ec) && !fs::is_empty(folder, ec) && !fs::exists(folder / marker, ec)) {
        throw Error(Trouble::refused,
                    fmt::format("{} is not empty and was not made by the demo; give another folder.",
                                folder.string()));
    }
    fs::remove_all(folder, ec);
    fs::create_directories(folder);
    std::ofstream(folder / marker)
        << "Made by undershelf demo; the next demo run here takes everything away.\n";
}

struct Step {
    std::string why;
    std::vector<std::string> arguments;
};

const std::vector<Step>& steps() {
    static const std::vector<Step> all{
        {"What is there to work on? Drives are listed as well, where they are not given by name.",
         {"sources", "theatre-card.img", "theatre-disk.img"}},
        {"Stop and look first: the office disk, with two volumes and a free stretch.",
         {"inspect", "theatre-disk.img"}},
        {"And the card.", {"inspect", "theatre-card.img"}},
        {"Read the card into a shelf.", {"scan", "theatre-card.img"}},
        {"What is there, and how good is it?", {"summary", "theatre-card.shelf"}},
        {"How much was lost of each kind, and how to open it?",
         {"list", "theatre-card.shelf", "--lost", "--group", "kind"}},
        {"And in which folders: all of it, and how much of that is likely to open.",
         {"tree", "theatre-card.shelf", "--folders"}},
        {"The tree that the theatre remembers, deleted files in their places.",
         {"tree", "theatre-card.shelf", "--lost"}},
        {"Only what matters: the lost pictures that are likely to open.",
         {"list", "theatre-card.shelf", "--lost", "--kind", "picture", "--grade", "likely+"}},
        {"Why is this one only partial? Every step from the evidence to the number.",
         {"show", "theatre-card.shelf", "34"}},
        {"Is the script really the script?", {"peek", "theatre-card.shelf", "38", "--bytes", "300"}},
        {"Which of them really open? Read to their ends, they prove it.", {"check", "theatre-card.shelf"}},
        {"What is proven, and how strongly.",
         {"list", "theatre-card.shelf", "--grade", "verified", "--columns",
          "id,grade,chance,format,checked,size,path"}},
        {"One photo does not: something was written over it that left no other trace.",
         {"show", "theatre-card.shelf", "36"}},
        {"Which papers were those about the lantern and the fox? Their texts know.",
         {"list", "theatre-card.shelf", "--lost", "--containing", "lantern fox"}},
        {"Of some files not even a name is left. What they hold tells what they are.",
         {"scan", "theatre-card.img", "--reach", "content"}},
        {"A poster and a sound of an earlier season; what a name said before is not told again.",
         {"tree", "theatre-card.shelf", "--origin", "unnamed"}},
        {"How firmly each is known, and by which title it calls itself.",
         {"list", "theatre-card.shelf", "--origin", "unnamed", "--columns",
          "id,grade,chance,format,checked,size,path"}},
        {"Let the customer see what there is, and tick what is wanted: open the page in a browser.",
         {"sheet", "theatre-card.shelf", "--lost", "--to", "theatre-card.html"}},
        {"What can come back, on a page for the theatre: before anything is handed over.",
         {"report", "theatre-card.shelf", "--to", "quote", "--title", "The theatre's card"}},
        {"The theatre wants its summer play first.",
         {"mark", "theatre-card.shelf", "--under", "Scripts/Summer play"}},
        {"And the photographer her pictures, kept apart under a name.",
         {"mark", "theatre-card.shelf", "--as", "photos", "--lost", "--kind", "picture", "--grade",
          "likely+"}},
        {"Save what is lost, to another drive.",
         {"export", "theatre-card.shelf", "--to", "rescued", "--lost"}},
        {"And check what was saved.", {"verify", "rescued"}},
        {"The job's last page: what was handed over, verified, with figures for whoever wants to check it.",
         {"report", "theatre-card.shelf", "--to", "report", "--export", "rescued", "--title", "The theatre's card"}},
        {"The touring stick, exFAT, is failing, and a whole folder was deleted after the tour. The names "
         "first: what "
         "the file system is read from, before anything else.",
         {"capture", "theatre-stick.img", "stick.img", "--metadata-only", "--simulate",
          "theatre-stick.drive.csv"}},
        {"With so little copied, all names can be looked through.", {"scan", "stick.img"}},
        {"Next what the theatre asks for: the posters and pictures of the tour.",
         {"capture", "theatre-stick.img", "stick.img", "--from", "stick.shelf", "--under", "Tour 2025",
          "--kind", "picture,document", "--simulate", "theatre-stick.drive.csv"}},
        {"Then everything else.",
         {"capture", "theatre-stick.img", "stick.img", "--shelf", "stick.shelf", "--simulate",
          "theatre-stick.drive.csv"}},
        {"Once more for the sectors that failed: one of them gives in.",
         {"capture", "theatre-stick.img", "stick.img", "--shelf", "stick.shelf", "--again", "4", "--simulate",
          "theatre-stick.drive.csv"}},
        {"The same scan adds what has come since.", {"scan", "stick.img"}},
        {"Which files did the stick damage?", {"list", "stick.shelf", "--unread"}},
        {"Folders and names are all there, and nearly all of the contents.",
         {"tree", "stick.shelf", "--lost"}},
        {"The office's backup disk, NTFS: ledgers in the bin, letters deleted.",
         {"scan", "theatre-backup.img"}},
        {"What the bin holds counts where it was before.",
         {"list", "theatre-backup.shelf", "--lost", "--group", "folder", "--depth", "2"}},
        {"And is listed under its first name.",
         {"list", "theatre-backup.shelf", "--lost", "--columns", "path,size,grade,deleted,place"}},
        {"The sound studio's disk, HFS+: its journal remembers the takes that were thrown away.",
         {"scan", "theatre-studio.img"}},
        {"The newer takes lie where the oldest ones were; the others are all there.",
         {"tree", "theatre-studio.shelf", "--lost"}},
        {"The photographer's card, formatted by mistake, with three new pictures on it.",
         {"scan", "theatre-photos.img"}},
        {"The volume is nearly empty, and the space beside it is not. The summary says so, and what looking "
         "further "
         "would take.",
         {"summary", "theatre-photos.shelf"}},
        {"A sweep adds to the shelf what the format left.",
         {"scan", "theatre-photos.img", "--reach", "traces"}},
        {"The season's photos are back in their folders, as a volume of its own.",
         {"tree", "theatre-photos.shelf"}},
        {"Save them; they get a folder of their own.",
         {"export", "theatre-photos.shelf", "--to", "rescued-photos", "--origin", "former", "--grade",
          "likely+"}},
        {"The backup disk once more: somebody took it for the spare one, and formatted it.",
         {"scan", "theatre-spare.img", "--reach", "traces"}},
        {"Its old file records are after the new ones, and with them nearly everything.",
         {"tree", "theatre-spare.shelf", "--volume", "2"}},
        {"A copy of the office disk that was begun a few sectors late: no map, no volume where one usually "
         "is.",
         {"inspect", "theatre-lost.img"}},
        {"A sweep looks at every sector.", {"scan", "theatre-lost.img", "--reach", "traces"}},
        {"And there they are, with what was deleted.", {"tree", "theatre-lost.shelf", "--lost"}},
    };
    return all;
}

int run_step(const Step& step, const Terminal& terminal) {
    print("\n{}\n", terminal.styled(step.why, Style::bold));
    std::vector<std::string> words{"undershelf"};
    words.insert(words.end(), step.arguments.begin(), step.arguments.end());
    print("{}\n", terminal.styled("$ " + command_line(words), Style::middle));
    flush_out();
    for (const auto& command : commands()) {
        if (command.name != step.arguments.front()) continue;
        under_way() = {{program_version, step.arguments}, iso8601(now_utc()), {}};
        const int status = command.run({step.arguments.begin() + 1, step.arguments.end()});
        flush_out();
        note_end(status);
        under_way().shelf.clear();
        return status;
    }
    return wrong_usage;
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add(color_option());
    std::vector<std::string> rest = arguments;
    std::string folder = "undershelf-demo";
    if (!rest.empty() && rest.front().front() != '-') {
        folder = rest.front();
        rest.erase(rest.begin());
    }
    const auto given = parse(demo_command(), options, {}, rest);
    if (!given) return done;
    const auto terminal = terminal_from(*given);
    make_folder(folder);
    fs::current_path(folder);
    for (const auto& file : fs::directory_iterator(demo_volumes())) {
        if (file.path().string().ends_with(".img.gz")) unpack(file.path(), file.path().stem());
        if (file.path().extension() == ".csv") fs::copy_file(file.path(), file.path().filename());
    }
    print(
        "The Candlewick Lane marionette theatre calls: the card with this season's papers was tidied up too "
        "well.\n");
    for (const auto& step : steps()) {
        const int status = run_step(step, terminal);
        if (status != done && status != fell_short) return status;
    }
    print("\nEverything is in {}; the exported files are in its folder rescued/data.\n",
          fs::current_path().string());
    return done;
}

}  // namespace

Command demo_command() {
    return {"demo", "[DIR]", "run the whole job on the shipped demo volumes", run, true};
}

}  // namespace undershelf::cli
