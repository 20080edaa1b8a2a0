#include "answers/volume_json.hpp"

#include <nlohmann/json.hpp>

#include "volume/words.hpp"

namespace undershelf {

nlohmann::ordered_json or_null(const std::string& text) {
    return text.empty() ? nlohmann::ordered_json(nullptr) : nlohmann::ordered_json(text);
}

nlohmann::ordered_json json_of(const Volume& v) {
    return {{"number", v.number},
            {"file_system", v.file_system},
            {"offset", v.offset},
            {"size", v.size},
            {"cluster_size", v.cluster_size},
            {"label", or_null(v.label)},
            {"serial", or_null(v.serial)},
            {"state", word(v.state)},
            {"found_by", v.found_by},
            {"support", v.support}};
}

}  // namespace undershelf
