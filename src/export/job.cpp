#include "export/job.hpp"

#include <nlohmann/json.hpp>

#include "shelf/selection_json.hpp"

using nlohmann::ordered_json;

namespace undershelf {

std::string describe_job(const SourceRecord& source, const ExportOptions& options) {
    ordered_json j;
    j["source"] = source.path;
    j["bytes"] = source.size;
    j["selection"] = selection_json(options.selection);
    j["tree"] = options.flat ? "flat" : "keep";
    if (options.links) j["links"] = true;
    return j.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

}  // namespace undershelf
