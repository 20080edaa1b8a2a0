#include <fmt/format.h>

#include "base/amounts.hpp"
#include "base/text.hpp"
#include "content/kinds.hpp"
#include "preview/html_text.hpp"
#include "report/html.hpp"

namespace undershelf {

namespace {

/// Kinds as people call them.
std::string_view kind_words(Kind kind) {
    switch (kind) {
        case Kind::picture:
            return "pictures";
        case Kind::video:
            return "films";
        case Kind::audio:
            return "sounds";
        case Kind::document:
            return "documents";
        case Kind::mail:
            return "mail";
        case Kind::archive:
            return "archives";
        case Kind::database:
            return "databases";
        case Kind::program:
            return "programs";
        case Kind::text:
            return "texts";
        case Kind::link:
            return "links";
        case Kind::other:
            break;
    }
    return "other files";
}

void append_brought(std::string& out, const ReportFacts& f) {
    out += fmt::format("<h2>What was brought</h2>\n<p><bdi>{}</bdi>, {}.", html_text(f.source_name),
                       human_size(f.source.size));
    for (const auto& v : f.volumes) {
        if (v.state == VolumeState::former) continue;
        const auto label = v.label.empty() ? std::string() : fmt::format(" called \"{}\"", v.label);
        out += html_text(fmt::format(" On it is a volume of {}{}, written as {}.", human_size(v.size), label,
                                     v.file_system));
    }
    out += "</p>\n<h2>What happened to it</h2>\n<ul>\n";
    for (const auto& sentence : f.happened) out += "<li>" + html_text(sentence) + "</li>\n";
    out += "</ul>\n";
}

void append_kinds(std::string& out, const ReportFacts& f) {
    out += "<h2>What can come back</h2>\n";
    if (f.files == 0) {
        out += "<p>Nothing that was looked for is there.</p>\n";
        return;
    }
    out += fmt::format(
        "<p>{}, {}. <b>Proven</b> were read to their end and are whole. <b>Likely</b> ones will nearly "
        "always be "
        "whole. <b>Doubtful</b> ones may be. <b>In part</b> means that a piece is lost; <b>gone</b> that "
        "nothing is "
        "left.</p>\n<table>\n",
        counted(f.files, "file", "files"), human_size(f.bytes));
    std::vector<std::string> head{"kind", "files", "size"};
    for (const auto grade : shown_grades) head.emplace_back(customer_word(grade));
    append_row(out, head, "th");
    for (const auto& [kind, counts] : f.kinds) {
        std::vector<std::string> row{std::string(kind_words(kind)), grouped(counts.files),
                                     human_size(counts.bytes)};
        for (const auto grade : shown_grades) {
            const auto n = counts.by_grade[static_cast<std::size_t>(grade)];
            row.push_back(n ? grouped(n) : "-");
        }
        append_row(out, row);
    }
    out += "</table>\n";
}

void append_previews(std::string& out, const ReportFacts& f) {
    if (f.previews.empty()) return;
    out += "<ul class=\"previews\">\n";
    for (const auto& p : f.previews) {
        const auto name = html_text(p.entry.shown_name());
        out += fmt::format(
            "<li><img loading=\"lazy\" decoding=\"async\" alt=\"{}\" src=\"data:image/jpeg;base64,", name);
        out += base64(p.picture);
        out += fmt::format("\"><span><bdi>{}</bdi></span></li>\n", name);
    }
    out += "</ul>\n";
}

void append_wanted(std::string& out, const ReportFacts& f) {
    if (!f.wanted) return;
    std::uint64_t found = 0;
    for (const auto& line : *f.wanted) found += line.files > 0;
    out += fmt::format("<h2>What was asked for</h2>\n<p>{} of {} found.</p>\n<table>\n", grouped(found),
                       counted(f.wanted->size(), "thing was", "things were"));
    out += "<tr><th>asked for</th><th class=\"words\">found</th><th>how sure</th></tr>\n";
    for (const auto& line : *f.wanted) {
        const auto what = line.files == 0   ? std::string("not found")
                          : line.files == 1 ? line.path
                                            : fmt::format("{}, and {}", line.path,
                                                          counted(line.files - 1, "other", "others"));
        out +=
            fmt::format("<tr><td><bdi>{}</bdi></td><td class=\"words\"><bdi>{}</bdi></td><td>{}</td></tr>\n",
                        html_text(line.text), html_text(what), line.files ? customer_word(line.best) : "-");
    }
    out += "</table>\n";
}

void append_bags(std::string& out, const ReportFacts& f) {
    if (f.bags.empty()) return;
    out += "<h2>What was handed over</h2>\n";
    for (const auto& bag : f.bags) {
        if (bag.verification.unfinished_command)
            out += "<p class=\"warning\">Saving these files is not finished. More will follow.</p>\n";
        else if (!bag.ends_well())
            out +=
                "<p class=\"warning\">Some of the saved files are not as they were saved. Do not rely on "
                "this copy; it has to be "
                "made again.</p>\n";
        out += html_text(fmt::format(
            "{} saved complete, {}{}", counted(bag.complete, "file was", "files were"), human_size(bag.bytes),
            bag.partial ? fmt::format("; {} in part, with what is missing filled in", grouped(bag.partial))
                        : std::string()));
        if (!bag.drive.empty()) out += html_text(". They are on: " + bag.drive);
        out += bag.ends_well() ? ". Every one was read again after it was saved, and is as it was.<br>\n"
                               : ".<br>\n";
    }
}

void append_next(std::string& out, const ReportFacts& f) {
    out += "<h2>What happens next</h2>\n<p>";
    if (f.bags.empty())
        out +=
            "Say which of these files you want. They are saved to another drive; what was brought stays as "
            "it is.";
    else
        out +=
            "Look through what was saved. Keep what was brought as it is, and do not use it, until you are "
            "sure that nothing is "
            "missing: what is written to it now can destroy what is left.";
    out += "</p>\n";
}

}  // namespace

void append_customer_page(std::string& out, const ReportFacts& f) {
    out += "<p class=\"about\">";
    if (!f.case_name.empty()) out += "Case " + html_text(f.case_name) + ". ";
    if (!f.by.empty()) out += "By " + html_text(f.by) + ". ";
    out += html_text(f.made.substr(0, 10)) + ".</p>\n";
    append_brought(out, f);
    append_kinds(out, f);
    append_previews(out, f);
    append_wanted(out, f);
    append_bags(out, f);
    append_next(out, f);
}

}  // namespace undershelf
