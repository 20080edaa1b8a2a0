#include "preview/sheet.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <map>
#include <optional>

#include "answers/grade_words.hpp"
#include "answers/id_list.hpp"
#include "base/amounts.hpp"
#include "base/batches.hpp"
#include "preview/sheet_writers.hpp"
#include "scan/pieces_content.hpp"
#include "writing/files.hpp"

namespace undershelf {

namespace {

constexpr std::size_t files_a_page = 2000;
constexpr PictureWish thumbnail{.pixels = 400, .form = PictureForm::jpeg, .most_bytes = 18 << 10};

/// A file of the sheet, before it is looked at.
struct Place {
    std::size_t group = 0;  ///< in the order in which groups are shown
    std::string path;
    std::int64_t id = 0;
};

class Sheet {
  public:
    Sheet(const Shelf& shelf, const Source& source, const SheetOptions& options, Progress& progress)
        : shelf_(shelf),
          source_(source),
          options_(options),
          progress_(progress),
          guard_(source.path()),
          form_(sheet_form_of(options.to)),
          several_(shelf.volumes().size() > 1),
          drawings_(options.decoder_program) {}

    SheetResult write() {
        gather();
        const auto each = form_ == SheetForm::png ? drawn_columns * drawn_rows : files_a_page;
        const auto pages = std::max<std::size_t>(1, (places_.size() + each - 1) / each);
        SheetResult out;
        for (std::size_t i = 0; i < pages; ++i) out.files.push_back(page_file(i));
        tell_facts(out.files);
        // All names are looked at before the first file is made.
        for (const auto& file : out.files) refuse_existing(file);
        progress_.stage("drawing");
        std::size_t done = 0;
        for (std::size_t i = 0; i < pages && !progress_.stopped(); ++i) {
            const SheetPage page{i + 1, pages, i * each, std::min(each, places_.size() - i * each)};
            try {
                save_new_file(guard_, out.files[i], [&](OutputFile& file) { write_page(file, page, out); });
                ++done;
            } catch (const Stopped&) {
                break;
            }
        }
        out.interrupted = done < pages;
        out.files.resize(done);
        return out;
    }

  private:
    /// `sheet.html`, `sheet-2.html` ...
    std::string page_file(std::size_t index) const {
        if (index == 0) return options_.to;
        const std::filesystem::path path(options_.to);
        return (path.parent_path() /
                fmt::format("{}-{}{}", path.stem().string(), index + 1, path.extension().string()))
            .string();
    }

    void refuse_existing(const std::string& file) const {
        guard_.refuse(file);
        if (std::filesystem::exists(std::filesystem::symlink_status(file)))
            throw Error(Trouble::refused,
                        fmt::format("{} is there already; nothing is overwritten. Give another name.", file));
    }

    /// All files in the order in which they are shown.
    void gather() {
        std::map<std::string, std::size_t> order;
        for (const auto& group : groups_to_show(shelf_, options_.selection, options_.group, std::nullopt))
            order.emplace(group.name, order.size());
        shelf_.for_each(options_.selection, {}, [&](const ShelfEntry& e) {
            if (e.is_dir || e.link || e.system) return true;
            const auto [it, fresh] = order.emplace(group_name_of(e, options_.group, several_), order.size());
            places_.push_back({it->second, e.shown_path(), e.id});
            facts_.bytes += e.size;
            return !progress_.stopped();
        });
        std::sort(places_.begin(), places_.end(), [](const Place& a, const Place& b) {
            return std::tie(a.group, a.path, a.id) < std::tie(b.group, b.path, b.id);
        });
    }

    void tell_facts(const std::vector<std::string>& files) {
        facts_.heading = id_list_heading(shelf_);
        facts_.identity = shelf_.identity();
        facts_.source = std::filesystem::path(shelf_.source().path).filename().string();
        facts_.files = places_.size();
        for (const auto& file : files)
            facts_.names.push_back(std::filesystem::path(file).filename().string());
    }

    std::unique_ptr<SheetWriter> writer(OutputFile& file, const SheetPage& page) {
        if (form_ == SheetForm::html) return html_sheet(file, facts_, page);
        return drawn_sheet(file, facts_, page, drawings_,
                           form_ == SheetForm::pdf ? PictureForm::pdf : PictureForm::png);
    }

    /// Somebody does not want to wait for the page under way.
    struct Stopped {};
    struct Job {
        SheetItem item;
        std::vector<Piece> pieces;
    };

    void write_page(OutputFile& file, const SheetPage& page, SheetResult& out) {
        const auto sheet = writer(file, page);
        auto next = page.first;
        in_order<Job>(
            [&](Job& job) {
                std::optional<ShelfEntry> entry;
                // One that was withdrawn since by a scan under way is passed over.
                while (!entry && next < page.first + page.count && !progress_.stopped())
                    entry = shelf_.entry(places_[next++].id);
                if (!entry) return false;
                job.item.entry = std::move(*entry);
                job.item.group = group_name_of(job.item.entry, options_.group, several_);
                job.item.reason = reason_of(shelf_, job.item.entry);
                job.pieces = shelf_.pieces(job.item.entry.id);
                return true;
            },
            [&](Job& job) { draw(job); },
            [&](Job&& job) {
                out.cards += job.item.picture.empty();
                progress_.at(++out.shown, places_.size());
                sheet->item(job.item);
            });
        // A page with a part of its files would be taken for all of them.
        if (progress_.stopped()) throw Stopped();
        sheet->finish();
        out.bytes += file.size();
    }

    void draw(Job& job) {
        PiecesContent content(source_, std::move(job.pieces), job.item.entry.size, progress_);
        const auto* format = format_to_draw(job.item.entry, content);
        job.item.heading = heading_of(format, job.item.entry);
        job.item.drawn = draw_entry(drawings_, job.item.entry, content, format, thumbnail, job.item.picture);
    }

    const Shelf& shelf_;
    const Source& source_;
    const SheetOptions& options_;
    Progress& progress_;
    SourceGuard guard_;
    SheetForm form_;
    bool several_;
    Drawings drawings_;
    std::vector<Place> places_;
    SheetFacts facts_;
};

}  // namespace

SheetForm sheet_form_of(const std::string& path) {
    const auto end = std::filesystem::path(path).extension().string();
    if (end == ".html" || end == ".htm") return SheetForm::html;
    if (end == ".pdf") return SheetForm::pdf;
    if (end == ".png") return SheetForm::png;
    throw Error(Trouble::usage,
                fmt::format("A sheet is a file that ends in .html, .pdf or .png; {} does not.", path));
}

SheetResult write_sheet(const Shelf& shelf, const Source& source, const SheetOptions& options,
                        Progress& progress) {
    return Sheet(shelf, source, options, progress).write();
}

std::string amounts_of(const ShelfEntry& entry, const Drawn& drawn) {
    auto out = human_size(entry.size);
    const auto& d = entry.details;
    const bool pictured =
        drawn.shows != Shows::nothing && drawn.shows != Shows::embedded && drawn.width && drawn.height;
    if (!d.pixels.empty())
        out += fmt::format(", {} pixels", d.pixels);
    else if (pictured)
        out += fmt::format(", {}x{} pixels", drawn.width, drawn.height);
    if (d.seconds) out += fmt::format(", {:.0f} s", *d.seconds);
    if (d.pages) out += fmt::format(", {} {}", *d.pages, *d.pages == 1 ? "page" : "pages");
    return out;
}

std::string date_of(const ShelfEntry& entry) {
    if (entry.modified) return "changed " + short_date(*entry.modified);
    if (entry.created) return "made " + short_date(*entry.created);
    return {};
}

}  // namespace undershelf
