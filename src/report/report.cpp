#include "report/report.hpp"

#include <fmt/format.h>

#include <filesystem>

#include "answers/fields.hpp"
#include "base/json_text.hpp"
#include "writing/output_file.hpp"

namespace undershelf {

namespace {

Bytes bytes_of(std::string_view text) {
    return {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()};
}

/// A line for each file of the selection, as `list --format csv` has them.
void write_list(const Shelf& shelf, const Selection& selection, OutputFile& out, const Progress& progress) {
    const auto fields = all_fields(false);
    auto text = csv_heading(fields) + "\n";
    constexpr std::size_t block = 256 << 10;
    shelf.for_each(selection, {}, [&](const ShelfEntry& e) {
        if (e.is_dir || e.system) return true;
        append_csv(text, e, fields, false);
        if (text.size() >= block) {
            out.write(bytes_of(text));
            text.clear();
        }
        return !progress.stopped();
    });
    out.write(bytes_of(text));
}

}  // namespace

std::string_view customer_word(Grade grade) {
    switch (grade) {
        case Grade::verified:
            return "proven";
        case Grade::likely:
            return "likely";
        case Grade::doubtful:
            return "doubtful";
        case Grade::partial:
            return "in part";
        case Grade::gone:
            return "gone";
        case Grade::none:
            break;
    }
    return "not rated";
}

ReportResult write_report(const Shelf& shelf, const Source* source, const ReportOptions& options,
                          Progress& progress) {
    const SourceGuard guard(shelf.source().path);
    const auto place = [&](const std::string& name) {
        return (std::filesystem::path(options.to) / name).string();
    };
    for (const char* const name : {"report.html", "report.json", "files.csv", "map.svg"}) {
        guard.refuse(place(name));
        if (std::filesystem::exists(std::filesystem::symlink_status(place(name))))
            throw Error(Trouble::refused,
                        fmt::format("{} is there already; nothing is overwritten. Give another folder.",
                                    place(name)));
    }
    ReportResult out;
    Drawings drawings(options.decoder_program);
    out.facts = gather_facts(shelf, source, options, drawings, progress);
    const auto save = [&](const std::string& name, std::string_view content) {
        save_new_file(guard, place(name), [&](OutputFile& file) { file.write(bytes_of(content)); });
        out.files.push_back(place(name));
    };
    const auto figures = draw_figures(out.facts, drawings);
    for (const auto& figure : figures) {
        save(figure.name + ".svg", figure.svg);
        save(figure.name + ".png", figure.png);
    }
    if (options.figures_only) return out;
    save_new_file(guard, place("files.csv"),
                  [&](OutputFile& file) { write_list(shelf, options.selection, file, progress); });
    out.files.push_back(place("files.csv"));
    save("report.json", json_text(report_json(out.facts), 2) + "\n");
    // The page comes last: where it is, all that it speaks of is there.
    save("report.html", report_html(out.facts, figures));
    return out;
}

}  // namespace undershelf
