#include "export/job.hpp"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "shelf/selection_json.hpp"

using nlohmann::ordered_json;

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
    ordered_json j;
    j["source"] = source.path;
    j["bytes"] = source.size;
    j["selection"] = selection_json(options.selection);
    j["tree"] = word(options.tree);
    if (options.links) j["links"] = true;
    return j.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

}  // namespace undershelf
