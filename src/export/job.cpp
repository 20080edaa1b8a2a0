#include "export/job.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/printable.hpp"
#include "shelf/selection_text.hpp"

namespace undershelf {

namespace {
constexpr std::string_view trees[] = {"keep", "flat", "kind", "month"};
}

std::string_view word(ExportTree tree) {
    return trees[static_cast<std::size_t>(tree)];
}

std::optional<ExportTree> export_tree_from_word(std::string_view text) {
    const auto* const it = std::find(std::begin(trees), std::end(trees), text);
    return it == std::end(trees) ? std::nullopt
                                 : std::optional(static_cast<ExportTree>(it - std::begin(trees)));
}

std::string describe_job(const SourceRecord& source, const ExportOptions& options) {
    std::string out = "{\"source\":";
    append_json_text(out, source.path);
    out += fmt::format(",\"bytes\":{},\"selection\":{},\"tree\":\"{}\"", source.size,
                       selection_text(options.selection), word(options.tree));
    return out += options.links ? ",\"links\":true}" : "}";
}

}  // namespace undershelf
