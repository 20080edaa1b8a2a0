#include <fmt/format.h>

#include <filesystem>

#include "answers/check_words.hpp"
#include "answers/entry_named.hpp"
#include "base/text.hpp"
#include "cli/columns.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "content/format.hpp"
#include "content/signature.hpp"
#include "content/text/text.hpp"
#include "scan/source_identity.hpp"
#include "volume/content_stream.hpp"
#include "volume/words.hpp"
#include "writing/files.hpp"
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

void save(const ShelfEntry& entry, ContentStream& stream, const Source& source, const std::string& to,
          std::uint64_t most) {
    const std::filesystem::path path = std::filesystem::absolute(to);
    const SourceGuard guard(source.path());
    guard.refuse(to);
    if (std::filesystem::exists(std::filesystem::symlink_status(path)))
        throw Error(Trouble::refused,
                    fmt::format("{} is there already; nothing is overwritten. Give another name.", to));
    const Folder folder(guard, path.parent_path().string());
    OutputFile out(folder, path.filename().string() + new_suffix);
    ByteVector buffer(1 << 20);
    const auto end = std::min(stream.size(), most);
    for (std::uint64_t at = 0; at < end; at += buffer.size()) {
        const auto part = MutableBytes(buffer).first(
            static_cast<std::size_t>(std::min<std::uint64_t>(buffer.size(), end - at)));
        stream.read(at, part);
        out.write(part);
    }
    out.set_times(entry.modified, entry.accessed);
    out.publish(path.filename().string());
    print("{} in {}\n", human_size(end), to);
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    options.add_options()("bytes", value("SIZE"), "how many bytes (default 512; with --to all)")(
        "as", value("FORM", "auto"), "auto, text or hex")(
        "to", value("FILE"), "write them to this file instead")("source", value("SOURCE", ""),
                                                                "where the source is now, if it moved");
    options.add(color_option());
    const auto given = parse(peek_command(), options, {"SHELF", "ID|PATH"}, arguments);
    if (!given) return done;
    const auto terminal = terminal_from(*given);
    const auto as = (*given)["as"].as<std::string>();
    if (as != "auto" && as != "text" && as != "hex")
        throw Error(Trouble::usage, fmt::format("--as takes auto, text or hex, not `{}`.", as));
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    const auto entry = entry_from(shelf, (*given)[":ID|PATH"].as<std::string>());
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
    const auto source = open_source_of(shelf, (*given)["source"].as<std::string>());
    ContentStream stream(*source, shelf.pieces(entry.id), entry.size);
    const auto limit = number_from(*given, "bytes");
    if (given->count("to")) {
        save(entry, stream, *source, (*given)["to"].as<std::string>(), limit.value_or(entry.size));
        return done;
    }
    const auto wanted = std::min(limit.value_or(default_bytes), most_on_screen);
    ByteVector bytes(static_cast<std::size_t>(std::min(wanted, entry.size)));
    const auto missing = stream.read(0, bytes);
    const auto format = recognise_format(bytes);
    print("{}\n", terminal.styled(fitted(entry.path(), terminal.width()), Style::bold));
    const auto check = check_in_words(entry);
    if (!check.empty()) print("{}\n", terminal.styled(check, Style::dim));
    print("{}\n\n",
          terminal.styled(
              fmt::format(
                  "{}, {}; {}{}", grade_text(entry), human_size(entry.size),
                  bytes.size() < entry.size ? fmt::format("its first {} bytes", bytes.size()) : "all of it",
                  format.empty() || !check.empty() ? "" : fmt::format("; its first bytes show: {}", format)),
              Style::dim));
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

}  // namespace

Command peek_command() {
    return {"peek", "SHELF ID|PATH", "its first bytes as text or hex, or in a file", run};
}

}  // namespace undershelf::cli
