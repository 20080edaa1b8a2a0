#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "base/amounts.hpp"
#include "base/command_line.hpp"
#include "base/text.hpp"
#include "preview/html_text.hpp"
#include "report/calibration.hpp"
#include "report/html.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

void heading(std::string& out, const char* words) {
    out += fmt::format("<h2>{}</h2>\n", words);
}

void append_source(std::string& out, const ReportFacts& f) {
    heading(out, "Source, and how it was read");
    out += "<table class=\"pairs\">\n";
    append_row(out, {"source", f.source.path});
    append_row(out, {"size", fmt::format("{} bytes, in sectors of {}", grouped(f.source.size),
                                         f.source.sector_size)});
    append_row(out, {"list of finds", f.shelf + ", " + f.identity});
    append_row(out,
               {"could not be read", f.unreadable.empty()
                                         ? "nothing"
                                         : fmt::format("{} bytes in {} ranges", grouped(f.unreadable.bytes()),
                                                       grouped(f.unreadable.ranges().size()))});
    append_row(out,
               {"not copied yet", f.not_copied.empty()
                                      ? "nothing"
                                      : fmt::format("{} bytes in {} ranges", grouped(f.not_copied.bytes()),
                                                    grouped(f.not_copied.ranges().size()))});
    out += "</table>\n";
    constexpr std::size_t most = 20;
    if (f.unreadable.empty()) return;
    out += "<p class=\"soft\">Ranges that could not be read, in bytes (offset, length):";
    for (std::size_t i = 0; i < std::min(most, f.unreadable.ranges().size()); ++i)
        out += fmt::format(" {}, {};", grouped(f.unreadable.ranges()[i].offset),
                           grouped(f.unreadable.ranges()[i].length));
    out += f.unreadable.ranges().size() > most ? " the others are in report.json.</p>\n" : "</p>\n";
}

void append_volumes(std::string& out, const ReportFacts& f) {
    heading(out, "Volumes");
    if (f.volumes.empty()) {
        out += "<p>No volume was found.</p>\n";
        return;
    }
    out += "<table>\n";
    append_row(out, {"volume", "state", "bytes from", "size", "cluster", "files", "serial"}, "th");
    std::string evidence;
    for (const auto& v : f.volumes) {
        const auto it = f.by_volume.find(v.number);
        append_row(
            out,
            {fmt::format("{} {} {}", v.number, v.file_system, v.label), std::string(word(v.state)),
             grouped(v.offset), human_size(v.size), v.cluster_size ? human_size(v.cluster_size) : "-",
             grouped(it == f.by_volume.end() ? 0 : it->second.files), v.serial.empty() ? "-" : v.serial});
        std::string votes = v.votes;
        std::replace(votes.begin(), votes.end(), '\n', ' ');
        evidence += "<li>" +
                    html_text(fmt::format(
                        "Volume {}: {}; {:.0f} of 100 of the structures it points to are where they "
                        "should be. {}",
                        v.number, how_found(v), 100 * v.support, votes)) +
                    "</li>\n";
    }
    out += "</table>\n<ul>\n" + evidence + "</ul>\n";
}

void append_journal(std::string& out, const ReportFacts& f) {
    heading(out, "What was done");
    out +=
        "<table>\n<tr><th>begun (UTC)</th><th "
        "class=\"words\">command</th><th>version</th><th>ended</th><th>exit</th></tr>\n";
    for (const auto& c : f.summary.at("commands")) {
        std::vector<std::string> typed{"undershelf", c.value("command", "")};
        for (const auto& o : c.at("options")) typed.push_back(o.get<std::string>());
        const auto text = [&](const char* key) {
            return c.at(key).is_null() ? std::string("-") : c.at(key).get<std::string>();
        };
        out += fmt::format(
            "<tr><td>{}</td><td class=\"words\"><code>{}</code></td><td>{}</td><td>{}</td><td>{}</td></tr>\n",
            html_text(text("started").substr(0, 19)), html_text(command_line(typed)),
            html_text(text("version")),
            html_text(c.at("ended").is_null() ? text("state") : text("ended").substr(0, 19)),
            c.at("exit").is_null() ? std::string("-") : std::to_string(c.at("exit").get<int>()));
    }
    out += "</table>\n";
    const auto& next = f.summary.at("next");
    heading(out, "What is not done yet, and what it would bring");
    out += "<ul>\n";
    for (const auto& sentence : next) out += "<li>" + html_text(sentence.get<std::string>()) + "</li>\n";
    out += next.empty() ? "<li>Nothing: all passes are done.</li>\n</ul>\n" : "</ul>\n";
    const auto& broken = f.summary.at("broken_structures");
    if (broken.empty()) return;
    heading(out, "Broken structures");
    out += "<ul>\n";
    constexpr std::size_t most = 40;
    for (std::size_t i = 0; i < std::min(most, broken.size()); ++i)
        out += "<li>" + html_text(broken[i].get<std::string>()) + "</li>\n";
    out += "</ul>\n";
}

std::vector<std::string> grade_cells(const std::array<std::uint64_t, 6>& by_grade) {
    std::vector<std::string> out;
    for (const auto grade : shown_grades) {
        const auto n = by_grade[static_cast<std::size_t>(grade)];
        out.push_back(n ? grouped(n) : "-");
    }
    return out;
}

void append_counts_head(std::string& out, const char* what) {
    std::vector<std::string> head{what, "files", "size"};
    for (const auto grade : shown_grades) head.emplace_back(word(grade));
    append_row(out, head, "th");
}
void append_counts(std::string& out, const std::string& name, std::uint64_t files, std::uint64_t bytes,
                   const std::array<std::uint64_t, 6>& by_grade) {
    std::vector<std::string> row{name, grouped(files), human_size(bytes)};
    const auto cells = grade_cells(by_grade);
    row.insert(row.end(), cells.begin(), cells.end());
    append_row(out, row);
}

void append_finds(std::string& out, const ReportFacts& f) {
    if (f.files == 0) return;
    heading(out, "Files by origin and folder");
    out += "<table>\n";
    append_counts_head(out, "origin");
    for (const auto& [origin, c] : f.origins)
        append_counts(out, std::string(word(origin)), c.files, c.bytes, c.by_grade);
    out += "</table>\n<table>\n";
    append_counts_head(out, "folder (the largest)");
    for (const auto& g : f.folders)
        append_counts(out, g.name, g.counts.files, g.counts.bytes, g.counts.by_grade);
    out += "</table>\n";
    if (f.most_doubtful.empty()) return;
    heading(out, "The least sure of those called likely or verified");
    out += "<table>\n<tr><th>file</th><th>chance</th><th class=\"words\">why</th></tr>\n";
    for (std::size_t i = 0; i < f.most_doubtful.size(); ++i) {
        const auto& e = f.most_doubtful[i];
        out += fmt::format("<tr><td>{} <bdi>{}</bdi></td><td>{:.3f}</td><td class=\"words\">{}</td></tr>\n",
                           e.id, html_text(e.shown_path()), e.rating.chance, html_text(f.doubts[i]));
    }
    out += "</table>\n";
}

void append_figures(std::string& out, const std::vector<Figure>& figures) {
    heading(out, "Figures");
    for (const auto& figure : figures) {
        out +=
            fmt::format("<figure><img alt=\"{}\" src=\"data:image/svg+xml;base64,", html_text(figure.told));
        out += base64(figure.svg);
        out += fmt::format("\"><figcaption>{} ({}.svg, {}.png)</figcaption></figure>\n",
                           html_text(figure.caption), figure.name, figure.name);
    }
}

void append_calibration(std::string& out) {
    heading(out, "How chances were measured");
    out += fmt::format("<p>{}. The chance is that of coming back byte for byte.</p>\n<table>\n",
                       calibration_version);
    append_row(out, {"chance, on average", "files", "came back exactly"}, "th");
    for (const auto& b : calibration_bins)
        append_row(out, {fmt::format("{:.3f}", b.mean), grouped(b.files),
                         fmt::format("{:.1f} of 100", 100 * b.exact)});
    out += "</table>\n";
}

void append_exports(std::string& out, const ReportFacts& f) {
    for (const auto& bag : f.bags) {
        heading(out, "Export");
        const auto& v = bag.verification;
        out += "<table class=\"pairs\">\n";
        append_row(out, {"folder", bag.folder});
        append_row(out, {"drive", bag.drive.empty() ? "unknown" : bag.drive});
        append_row(out,
                   {"verified now", bag.ends_well() ? fmt::format("yes: {} of {} files as written",
                                                                  grouped(v.as_written), grouped(v.files))
                                                    : "no"});
        append_row(out, {"complete, in part, left out, failed",
                         fmt::format("{}, {}, {}, {}", grouped(bag.complete), grouped(bag.partial),
                                     grouped(bag.left_out), grouped(bag.failed))});
        append_row(out,
                   {"SHA-256 of manifest-sha256.txt", bag.manifest_sum.empty() ? "none" : bag.manifest_sum});
        for (const auto& r : bag.rounds)
            append_row(
                out, {fmt::format("round {}", r.number), fmt::format("ended {}, {} files, {} bytes", r.ended,
                                                                     grouped(r.files), grouped(r.bytes))});
        out += "</table>\n<table>\n";
        append_counts_head(out, "exported");
        append_counts(out, "by grade", bag.complete + bag.partial, bag.bytes, bag.by_grade);
        out += "</table>\n";
        for (const auto& [why, n] : bag.why_left_out)
            out += fmt::format("<p class=\"soft\">left out: {} ({})</p>\n", grouped(n), html_text(why));
        constexpr std::size_t most = 20;
        for (std::size_t i = 0; i < std::min(most, v.differences.size()); ++i)
            out += "<p class=\"warning\">" + html_text(v.differences[i]) + "</p>\n";
        if (v.differences.size() > most) out += "<p class=\"soft\">The others are in report.json.</p>\n";
        out +=
            "<p>To check it with ordinary tools: <code>cd FOLDER &amp;&amp; sha256sum -c "
            "manifest-sha256.txt</code></p>\n";
    }
}

}  // namespace

void append_colleague_pages(std::string& out, const ReportFacts& f, const std::vector<Figure>& figures) {
    out += "<section class=\"colleague\">\n<h1>For whoever wants to check it</h1>\n";
    append_source(out, f);
    append_volumes(out, f);
    append_journal(out, f);
    append_finds(out, f);
    append_exports(out, f);
    append_figures(out, figures);
    append_calibration(out);
    out += fmt::format(
        "<p class=\"soft\">Made by undershelf {} on {}. Beside this page: files.csv has every file, "
        "report.json all that "
        "is said here.</p>\n</section>\n",
        html_text(f.version), html_text(f.made));
}

}  // namespace undershelf
