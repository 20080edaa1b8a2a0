#pragma once
// The forms that sheets are written in. Items come one after the other, in the order of their groups.

#include <memory>

#include "preview/sheet.hpp"
#include "writing/output_file.hpp"

namespace undershelf {

class SheetWriter {
  public:
    virtual ~SheetWriter() = default;
    virtual void item(const SheetItem& item) = 0;
    /// After the last one.
    virtual void finish() = 0;
};

/// What all pages of a sheet say.
struct SheetFacts {
    std::string heading;   ///< the first line of a list of ticks, which names the shelf
    std::string identity;  ///< of the shelf
    std::string source;    ///< its name
    std::uint64_t files = 0, bytes = 0;
    std::vector<std::string> names;  ///< of the pages' files, without folders
};

std::unique_ptr<SheetWriter> html_sheet(OutputFile& out, const SheetFacts& facts, const SheetPage& page);
/// A PDF file of A4 pages; or a PNG file of one.
std::unique_ptr<SheetWriter> drawn_sheet(OutputFile& out, const SheetFacts& facts, const SheetPage& page,
                                         Drawings& drawings, PictureForm form);
/// As many as one page of a drawn sheet has.
constexpr std::size_t drawn_columns = 4, drawn_rows = 5;

}  // namespace undershelf
