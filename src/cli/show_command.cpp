#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <sstream>

#include "answers/check_words.hpp"
#include "answers/entry_named.hpp"
#include "answers/grade_words.hpp"
#include "cli/columns.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/table.hpp"
#include "rating/explain.hpp"
#include "volume/words.hpp"

namespace undershelf::cli {

namespace {

constexpr int label_width = 12;

class EntryPrinter {
  public:
    EntryPrinter(const Shelf& shelf, const Terminal& terminal, const ShelfEntry& entry)
        : shelf_(shelf), terminal_(terminal), e_(entry) {}

    void show() {
        head();
        times();
        volume();
        if (!e_.is_dir) {
            pieces();
            evidence();
            verdict();
        } else {
            evidence();
        }
    }

  private:
    void line(const std::string& label, const std::string& text) const {
        bool first = true;
        for (const auto& part : wrapped(text, terminal_.width() - label_width)) {
            print("{}{}\n", terminal_.styled(padded(first ? label : "", label_width), Style::dim), part);
            first = false;
        }
    }
    void title(const std::string& text) const { print("\n{}\n", terminal_.styled(text, Style::dim)); }

    void head() const {
        auto path = e_.shown_path() + (e_.stream.empty() ? "" : ":" + e_.stream) + (e_.is_dir ? "/" : "");
        print("{}\n", terminal_.styled(fitted(path, terminal_.width()), Style::bold));
        line("entry",
             fmt::format("{}, {}{}{}{}{}{}", e_.id, word(e_.origin),
                         e_.volume ? fmt::format(", volume {}", *e_.volume) : "",
                         e_.system ? ", the file system's own" : "", e_.marked ? ", marked" : "",
                         e_.binned ? ", in a bin" : "", e_.helper ? ", only serves a bin or a viewer" : ""));
        const auto path_line = [&](const char* label, const std::string& place) {
            line(label, fitted(place, terminal_.width() - label_width));
        };
        if (!e_.first_path.empty()) path_line("on volume", e_.path());
        if (e_.link) path_line("link to", e_.target().empty() ? "its target is lost" : e_.target());
        constexpr std::size_t most = 5;
        const auto& names = e_.earlier_names;
        for (std::size_t i = 0; i < std::min(names.size(), most); ++i)
            path_line(i ? "" : "earlier", names[i]);
        if (names.size() > most) line("", fmt::format("... {} more", names.size() - most));
        if (e_.name_certainty != NameCertainty::full) line("name", std::string(word(e_.name_certainty)));
        if (!e_.is_dir) line("size", fmt::format("{} ({} bytes)", human_size(e_.size), grouped(e_.size)));
        if (const auto check = check_in_words(e_); !check.empty()) line("checked", check);
        if (const auto details = details_in_words(e_); !details.empty()) line("tells", details);
        const auto attributes = attribute_words(e_.attributes);
        if (!attributes.empty()) line("attributes", fmt::format("{}", fmt::join(attributes, ", ")));
    }

    void times() const {
        const auto one = [&](const char* label, const MaybeTime& t) {
            if (t) line(label, iso8601(*t) + (t->is_local() ? "  (local time, zone unknown)" : ""));
        };
        one("created", e_.created);
        one("modified", e_.modified);
        one("accessed", e_.accessed);
        one("deleted", e_.deleted);
    }

    static std::string kind_of(const Piece& p) {
        switch (p.kind) {
            case PieceKind::stored:
                return "stored";
            case PieceKind::zeros:
                return "zeros, not stored";
            case PieceKind::inlined:
                return "kept in its record";
            case PieceKind::packed:
                return "packed";
            case PieceKind::missing:
                return "missing";
        }
        return "?";
    }

    void pieces() const {
        const auto all = shelf_.pieces(e_.id);
        title("CONTENT");
        if (all.empty()) {
            print("  {}\n", e_.size == 0 && e_.layout != Layout::none
                                ? "It has no bytes."
                                : "Nothing tells where its content was.");
            return;
        }
        constexpr std::size_t most = 20;
        Table table(
            terminal_,
            {{"IN THE FILE", 16, true}, {"LENGTH", 16, true}, {"ON THE SOURCE", 20, true}, {"  LAYOUT", 9}});
        for (std::size_t i = 0; i < std::min(all.size(), most); ++i) {
            const auto& p = all[i];
            const auto source =
                p.kind == PieceKind::stored || p.kind == PieceKind::inlined ? grouped(p.source)
                : p.kind == PieceKind::packed && !p.input.empty()           ? grouped(p.input.front().offset)
                                                                            : "-";
            table.row({grouped(p.offset), grouped(p.length), source,
                       fmt::format("  {}, {}", p.known ? "known" : "assumed", kind_of(p))});
        }
        table.print();
        if (all.size() > most) print("{:>16}\n", fmt::format("... {} more", all.size() - most));
    }

    /// Live files on a source that reads well are rated as they are added, without a note of it in the shelf.
    std::vector<Evidence> all_evidence() const {
        auto all = shelf_.evidence(e_.id);
        const bool rated = std::any_of(all.begin(), all.end(),
                                       [](const Evidence& e) { return e.fact == Fact::live_content; });
        if (e_.origin == Origin::live && !e_.is_dir && !rated && e_.layout != Layout::none) {
            all.push_back({Fact::live_content, 0, 0, {}, static_cast<float>(e_.rating.chance), 0});
        }
        return all;
    }

    std::string name_of(std::int64_t id) const {
        const auto e = shelf_.entry(id);
        return fmt::format("entry {}", id) +
               (e ? fmt::format(" ({}, {})", fitted(e->shown_path(), 60), word(e->origin)) : "");
    }

    static std::string effect_of(const Evidence& e) {
        std::string out;
        if (e.chance != 1) out += fmt::format("chance x {:.2f}", e.chance);
        if (e.left != 0)
            out += fmt::format("{}left {:+.{}f} %", out.empty() ? "" : ", ", 100 * e.left,
                               e.left > -0.01f ? 1 : 0);
        return out;
    }

    /// Of an entry of a former volume: what its geometry is known by.
    void volume() const {
        if (e_.origin != Origin::former || !e_.volume) return;
        for (const auto& v : shelf_.volumes()) {
            if (v.number != *e_.volume) continue;
            title("VOLUME");
            auto text =
                fmt::format("Former {}, clusters of {}, {}.", v.file_system,
                            v.cluster_size ? human_size(v.cluster_size) : "unknown size", how_found(v));
            std::istringstream votes(v.votes);
            for (std::string vote; std::getline(votes, vote);) text += " " + vote;
            for (const auto& part : wrapped(text, terminal_.width() - 3)) print("   {}\n", part);
        }
    }

    void evidence() const {
        const auto all = all_evidence();
        if (all.empty()) return;
        title("EVIDENCE");
        constexpr int effect_width = 28;
        const int width = std::max(30, terminal_.width() - effect_width - 3);
        for (const auto& e : all) {
            bool first = true;
            for (const auto& part :
                 wrapped(explain(e, [this](std::int64_t id) { return name_of(id); }), width)) {
                const auto effect = first ? effect_of(e) : std::string();
                print("{} {}\n", first ? " -" : "  ",
                      effect.empty() ? part : padded(part, width) + " " + effect);
                first = false;
            }
        }
    }

    void verdict() const {
        title("VERDICT");
        if (e_.rated != Rated::yes) {
            line("grade", fmt::format("{}: {}", grade_text(e_),
                                      e_.rated == Rated::not_copied
                                          ? "go on with the copy, and scan again"
                                          : "the scan is not finished; the same command goes on"));
            return;
        }
        std::string product;
        for (const auto& e : all_evidence()) {
            if (e.chance != 1) product += fmt::format("{}{:.2f}", product.empty() ? "" : " x ", e.chance);
        }
        line("chance", fmt::format("{}{}  that the exported bytes are exactly the original file's",
                                   chance_text(e_), product.empty() ? "" : fmt::format(" = {}", product)));
        line("left",
             fmt::format("{:.0f} %  of its bytes are expected to be there still", 100 * e_.rating.left));
        print("{}{}\n", terminal_.styled(padded("grade", label_width), Style::dim),
              terminal_.styled(std::string(word(e_.rating.grade)), grade_style(e_)));
    }

    const Shelf& shelf_;
    const Terminal& terminal_;
    const ShelfEntry& e_;
};

int run(const std::vector<std::string>& arguments) {
    const auto given = parse(show_command(), color_option(), {"SHELF", "ID|PATH"}, arguments);
    if (!given) return done;
    const auto terminal = terminal_from(*given);
    const Shelf shelf((*given)[":SHELF"].as<std::string>());
    const auto entry = entry_from(shelf, (*given)[":ID|PATH"].as<std::string>());
    EntryPrinter(shelf, terminal, entry).show();
    if (!entry.is_dir && entry.size) print("\nnext: undershelf peek {} {}\n", shelf.path(), entry.id);
    return done;
}

}  // namespace

Command show_command() {
    return {"show", "SHELF ID|PATH",
            "one entry in full: times, layout, every piece of evidence, why this chance", run};
}

}  // namespace undershelf::cli
