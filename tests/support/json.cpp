#include "support/json.hpp"

#include <sstream>

namespace undershelf::test {

nlohmann::json parsed(const std::string& text) {
    return nlohmann::json::parse(text);
}

nlohmann::ordered_json ordered_parsed(const std::string& text) {
    return nlohmann::ordered_json::parse(text);
}

std::vector<nlohmann::json> lines_of(const std::string& text) {
    std::vector<nlohmann::json> out;
    std::istringstream in(text);
    for (std::string line; std::getline(in, line);) out.push_back(parsed(line));
    return out;
}

std::string dumped(const nlohmann::json& value) {
    return value.dump();
}

std::string dumped(const nlohmann::ordered_json& value) {
    return value.dump();
}

}  // namespace undershelf::test
