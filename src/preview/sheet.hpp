#pragma once
// A sheet of previews: files page by page, in groups, for people who look for theirs among many.

#include <functional>
#include <string>
#include <vector>

#include "answers/group_words.hpp"
#include "base/progress.hpp"
#include "preview/looking.hpp"
#include "source/source.hpp"
#include "writing/source_guard.hpp"

namespace undershelf {

enum class SheetForm : std::uint8_t { html, pdf, png };
/// By the name's end. Throws Error(usage) for any other.
SheetForm sheet_form_of(const std::string& path);

struct SheetOptions {
    std::string to;  ///< the first page's file; others get `-2`, `-3` before its end
    GroupBy group = GroupBy::folder;
    Selection selection;
    std::string decoder_program = {};  ///< as Drawings has it
};

/// One file, as a sheet shows it.
struct SheetItem {
    ShelfEntry entry;
    std::string group;    ///< its name
    std::string heading;  ///< its format's name
    std::string reason;   ///< of its grade, in a sentence
    Drawn drawn;
    std::string picture;  ///< a JPEG file; empty where only a card can be shown
};

/// A page, before its pictures are drawn.
struct SheetPage {
    std::size_t number = 1, of = 1;
    std::size_t first = 0, count = 0;  ///< of all files
};

struct SheetResult {
    std::vector<std::string> files;
    std::uint64_t shown = 0, cards = 0, bytes = 0;
    bool interrupted = false;
};

/// Writes the pages, each complete or not at all, and nothing over another file. Throws Error(refused) where
/// one is there, or could change the source, and std::system_error.
SheetResult write_sheet(const Shelf& shelf, const Source& source, const SheetOptions& options,
                        Progress& progress);

/// `12 KiB, 4000x3000 pixels, 3 pages`.
std::string amounts_of(const ShelfEntry& entry, const Drawn& drawn);
/// `changed 2025-03-04 10:00`; empty for an unknown date.
std::string date_of(const ShelfEntry& entry);

}  // namespace undershelf
