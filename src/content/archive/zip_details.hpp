#pragma once
// What a ZIP file holds that tells of it: the properties of office documents and books.

#include <string>

#include "content/format.hpp"

namespace undershelf::content {

/// The title in a markup document: of the first `<dc:title>`.
std::string dublin_core_title(std::string_view xml);
std::string zip_title(Content& content);
/// Of an office document's properties, else of the newest member.
InnerDates zip_dates(Content& content);
/// Pages of a document, sheets that are shown one by one, by its properties.
ContentDetails zip_content_details(Content& content);

}  // namespace undershelf::content
