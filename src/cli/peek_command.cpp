#include <fmt/format.h>

#include <utility>

#include "answers/check_words.hpp"
#include "answers/entry_named.hpp"
#include "answers/grade_words.hpp"
#include "answers/steps.hpp"
#include "cli/columns.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/peek_drawing.hpp"
#include "content/apart.hpp"
#include "content/signature.hpp"
#include "content/text/text.hpp"
#include "preview/looking.hpp"
#include "preview/words_of.hpp"
#include "scan/pieces_content.hpp"
#include "scan/source_identity.hpp"
#include "volume/content_stream.hpp"
#include "writing/output_file.hpp"

namespace undershelf::cli {

namespace {

constexpr std::uint64_t default_bytes = 512;
constexpr std::uint64_t most_on_screen = 1 << 20;

/// `00000010  48 65 6c ...  |Hel...|`, sixteen bytes a line.
void print_hex(Bytes bytes) {
    for (std::size_t at = 0; at < bytes.size(); at += 16) {
        std::string hex, text;
        for (std::size_t i = at; i < at + 16; ++i) {
            hex += i < bytes.size() ? fmt::format(" {:02x}", bytes[i]) : "   ";
            if (i % 16 == 7) hex += ' ';
            if (i < bytes.size())
                text += bytes[i] >= 0x20 && bytes[i] < 0x7F ? static_cast<char>(bytes[i]) : '.';
        }
        print("{:08x} {}  |{}|\n", at, hex, text);
    }
}

/// Lines as they are, each fitted to the terminal; nothing in them can steer it.
void print_text(std::string_view rest, const Terminal& terminal) {
    while (!rest.empty()) {
        const auto end = std::min(rest.find('\n'), rest.size());
        auto line = rest.substr(0, end);
        if (line.ends_with('\r')) line.remove_suffix(1);
        print("{}\n", fitted(line, terminal.width()));
        rest.remove_prefix(std::min(end + 1, rest.size()));
    }
}

/// Somebody does not want to wait for all of it.
struct Interrupted {};

void save(const ShelfEntry& entry, ContentStream& stream, const Source& source, const std::string& to,
          std::uint64_t most) {
    const auto end = std::min(stream.size(), most);
    save_new_file(SourceGuard(source.path()), to, [&](OutputFile& out) {
        ByteVector buffer(1 << 20);
        for (std::uint64_t at = 0; at < end; at += buffer.size()) {
            if (stop_flag().load() > 0) throw Interrupted();
            const auto part = MutableBytes(buffer).first(
                static_cast<std::size_t>(std::min<std::uint64_t>(buffer.size(), end - at)));
            stream.read(at, part);
            out.write(part);
        }
        out.set_times(entry.modified, entry.accessed);
    });
    print("{} in {}\n", human_size(end), to);
}

void print_heading(const ShelfEntry& entry, const Terminal& terminal, const std::string& what) {
    print("{}\n", terminal.styled(fitted(entry.path(), terminal.width()), Style::bold));
    const auto check = check_in_words(entry);
    if (!check.empty()) print("{}\n", terminal.styled(check, Style::dim));
    print("{}\n\n",
          terminal.styled(fmt::format("{}, {}; {}", grade_text(entry), human_size(entry.size), what),
                          Style::dim));
}

/// Its first bytes, as text or hex.
int print_bytes(const ShelfEntry& entry, ContentStream& stream, const Terminal& terminal,
                const std::string& as, std::optional<std::uint64_t> limit) {
    const auto wanted = std::min(limit.value_or(default_bytes), most_on_screen);
    ByteVector bytes(static_cast<std::size_t>(std::min(wanted, entry.size)));
    const auto missing = stream.read(0, bytes);
    const auto format = recognise_format(bytes);
    print_heading(
        entry, terminal,
        fmt::format(
            "{}{}", bytes.size() < entry.size ? fmt::format("its first {} bytes", bytes.size()) : "all of it",
            format.empty() || entry.checked ? "" : fmt::format("; its first bytes show: {}", format)));
    const auto encoding = encoding_of(bytes);
    if (as == "text" || (as == "auto" && encoding))
        print_text(content::as_utf8(bytes, encoding.value_or(Encoding::eight_bit),
                                    content::charset_of(bytes, encoding.value_or(Encoding::eight_bit))),
                   terminal);
    else
        print_hex(bytes);
    if (missing.empty()) return done;
    flush_out();
    note("undershelf: {} of these bytes cannot be read and are shown as zeros.\n", total_length(missing));
    return fell_short;
}

/// Its text, or what it is made of; false where it has neither. `all`: not the first lines alone.
bool print_lines(const Shelf& shelf, const ShelfEntry& entry, const Source& source, const Terminal& terminal,
                 bool all) {
    constexpr std::size_t first_lines = 60;
    SilentProgress progress;
    PiecesContent content(source, shelf.pieces(entry.id), entry.size, progress);
    const auto* format = format_to_draw(entry, content);
    DecodersApart decoders;
    bool heading = false, more = false;
    const auto what = format ? std::string(format->name) : std::string("text");
    const auto put = [&](std::string line) {
        for (auto tab = line.find('\t'); tab != line.npos; tab = line.find('\t', tab))
            line.replace(tab, 1, "  ");
        if (!std::exchange(heading, true)) print_heading(entry, terminal, what);
        if (columns_of(line) <= terminal.width()) {
            print("{}\n", fitted(line, terminal.width()));
            return;
        }
        for (const auto& part : wrapped(line, terminal.width()))
            print("{}\n", fitted(part, terminal.width()));
    };
    std::size_t shown = 0;
    const auto reads = read_lines(decoders, content, format, [&](const std::string& line) {
        more = !all && shown == first_lines;
        if (more || progress.stopped()) return true;
        put(line);
        ++shown;
        return false;
    });
    if (progress.stopped()) throw Interrupted();
    if (reads == Reads::nothing) return false;
    flush_out();
    if (more)
        note("These are its first {} lines. All of them: undershelf peek {} {} --all-text\n", shown,
             command_line({shelf.path()}), entry.id);
    return true;
}

/// Is a drawing of such files worth more than their bytes?
bool is_seen(Kind kind) {
    return kind == Kind::picture || kind == Kind::video || kind == Kind::audio || kind == Kind::document;
}

ShelfEntry file_from(const Shelf& shelf, const std::string& named) {
    auto entry = entry_from(shelf, named);
    if (entry.is_dir)
        throw Error(
            Trouble::usage,
            fmt::format(
                "Entry {} is a folder; peek shows files. What is in it: undershelf list {} --under '{}'",
                entry.id, shelf.path(), entry.path()));
    if (entry.layout == Layout::none)
        throw Error(Trouble::input,
                    fmt::format("Nothing tells where the content of {} was; there is nothing to look at.",
                                entry.path()));
    return entry;
}

int look_at(const Shelf& shelf, const po::variables_map& given, const std::string& named) {
    const auto terminal = terminal_from(given);
    const auto as = given["as"].as<std::string>();
    const auto entry = file_from(shelf, named);
    const auto source = open_source_of(shelf, given["source"].as<std::string>());
    if (given.count("draw")) return draw_one(shelf, entry, *source, given);
    ContentStream stream(*source, shelf.pieces(entry.id), entry.size);
    const auto limit = number_from(given, "bytes");
    if (given.count("to")) {
        save(entry, stream, *source, given["to"].as<std::string>(), limit.value_or(entry.size));
        return done;
    }
    const bool bytes_alone = limit || as != "auto";
    if (!bytes_alone && print_lines(shelf, entry, *source, terminal, given.count("all-text") > 0))
        return done;
    const int status = print_bytes(entry, stream, terminal, as, limit);
    if (!bytes_alone && is_seen(entry.kind)) {
        flush_out();
        note("next: undershelf peek {} {} --draw FILE.png draws it.\n", command_line({shelf.path()}),
             entry.id);
    }
    return status;
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("all-text", "all of its text, not its first 60 lines")(
        "bytes", value("SIZE"), "so many of its first bytes; with --to, 512 otherwise all")(
        "as", value("FORM", "auto"), "auto, text or hex: its bytes, not the text that is in it")(
        "to", value("FILE"), "write its bytes to this file")(
        "draw", value("FILE"), "draw it into this PNG file; of a selection, each into this folder")(
        "pixels", value("N", "512"), "how long the longer side of a drawing is at most")(
        "source", value("SOURCE", ""), "where the source is now, if it moved");
    options.add(color_option());
    const auto given = parse(peek_command(), options, {"SHELF"}, arguments, "ID|PATH");
    if (!given) return done;
    const auto as = (*given)["as"].as<std::string>();
    if (as != "auto" && as != "text" && as != "hex")
        throw Error(Trouble::usage, fmt::format("--as takes auto, text or hex, not `{}`.", as));
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    const auto named = given->count(":ID|PATH") ? (*given)[":ID|PATH"].as<std::vector<std::string>>()
                                                : std::vector<std::string>();
    if (named.size() > 1)
        throw Error(Trouble::usage, "peek shows one file. Several: give a selection, and --draw FOLDER.");
    try {
        if (!named.empty()) return look_at(shelf, *given, named.front());
    } catch (const Interrupted&) {
        flush_out();
        return interrupted;
    }
    if (!given->count("draw"))
        throw Error(Trouble::usage,
                    fmt::format("peek needs the number or the path of a file: undershelf list {} has them. "
                                "Several files are drawn: give a selection, and --draw FOLDER.",
                                command_line({shelf.path()})));
    return draw_several(shelf, *given);
}

}  // namespace

Command peek_command() {
    Command out{"peek", "SHELF ID|PATH, or SHELF selection --draw FOLDER",
                "what is in a file: its text, its members, its bytes, or a drawing of it", run};
    out.keeps_progress = true;
    out.selects = true;
    return out;
}

}  // namespace undershelf::cli
