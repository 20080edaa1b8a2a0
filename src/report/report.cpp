#include "report/report.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <functional>
#include <utility>

#include "answers/fields.hpp"
#include "base/json_text.hpp"
#include "writing/files.hpp"
#include "writing/output_file.hpp"

namespace undershelf {

namespace {

/// The files of a report; those that were made in vain are taken away.
class ReportFiles {
  public:
    ReportFiles(const SourceGuard& guard, const std::string& folder) : guard_(guard), folder_(folder) {}
    ~ReportFiles() {
        for (const auto& file : made_) remove_quietly(file);
    }
    ReportFiles(const ReportFiles&) = delete;
    ReportFiles& operator=(const ReportFiles&) = delete;

    std::string place(const std::string& name) const {
        return (std::filesystem::path(folder_) / name).string();
    }
    void save(const std::string& name, const std::function<void(OutputFile&)>& write) {
        save_new_file(guard_, place(name), write);
        made_.push_back(place(name));
    }
    void save(const std::string& name, std::string_view content) {
        save(name, [&](OutputFile& file) { file.write(content); });
    }
    /// They stay.
    std::vector<std::string> kept() { return std::exchange(made_, {}); }

  private:
    const SourceGuard& guard_;
    std::string folder_;
    std::vector<std::string> made_;
};

/// A line for each file of the selection, as `list --format csv` has them.
void write_list(const Shelf& shelf, const Selection& selection, OutputFile& out, const Progress& progress) {
    const auto fields = all_fields(false);
    auto text = csv_heading(fields) + "\n";
    constexpr std::size_t block = 256 << 10;
    shelf.for_each(selection, {}, [&](const ShelfEntry& e) {
        if (e.is_dir || e.system) return true;
        append_csv(text, e, fields, false);
        if (text.size() >= block) {
            out.write(text);
            text.clear();
        }
        return !progress.stopped();
    });
    out.write(text);
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
    ReportFiles files(guard, options.to);
    for (const char* const name : {"report.html", "report.json", "files.csv", "map.svg"}) {
        const auto place = files.place(name);
        guard.refuse(place);
        if (std::filesystem::exists(std::filesystem::symlink_status(place)))
            throw Error(
                Trouble::refused,
                fmt::format("{} is there already; nothing is overwritten. Give another folder.", place));
    }
    ReportResult out;
    Drawings drawings(options.decoder_program);
    out.facts = gather_facts(shelf, source, options, drawings, progress);
    // Half of the counts would be taken for all of them.
    out.interrupted = progress.stopped();
    if (out.interrupted) return out;
    const auto figures = draw_figures(out.facts, drawings);
    for (const auto& figure : figures) {
        files.save(figure.name + ".svg", figure.svg);
        files.save(figure.name + ".png", figure.png);
    }
    if (!options.figures_only) {
        files.save("files.csv",
                   [&](OutputFile& file) { write_list(shelf, options.selection, file, progress); });
        files.save("report.json", json_text(report_json(out.facts), 2) + "\n");
        // The page comes last: where it is, all that it speaks of is there.
        files.save("report.html", report_html(out.facts, figures));
    }
    out.interrupted = progress.stopped();
    if (!out.interrupted) out.files = files.kept();
    return out;
}

}  // namespace undershelf
