#include "answers/steps.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "base/amounts.hpp"

namespace undershelf {

namespace {

bool is_plain_word(const std::string& word) {
    return !word.empty() && std::all_of(word.begin(), word.end(), [](unsigned char c) {
        return std::isalnum(c) ||
               std::string_view("%+,-./:=@_").find(static_cast<char>(c)) != std::string_view::npos ||
               c >= 0x80;
    });
}

/// In single quotes, a quote among it as the shell takes it.
std::string quoted(const std::string& word) {
    if (is_plain_word(word)) return word;
    std::string out = "'";
    for (const char c : word) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
    return out + "'";
}

}  // namespace

std::string command_line(const std::vector<std::string>& argv) {
    std::string out;
    for (const auto& word : argv) out += (out.empty() ? "" : " ") + quoted(word);
    return out;
}

std::string about(double seconds) {
    return seconds < 10 ? "seconds" : fmt::format("about {}", human_time(seconds));
}

void Plan::add(Step step) {
    auto sentence = step.why;
    if (step.seconds) sentence += fmt::format(" It takes {}.", about(*step.seconds));
    if (sentence.ends_with('.')) sentence.pop_back();
    next.push_back(fmt::format("{}: {}", sentence, command_line(step.argv)));
    steps.push_back(std::move(step));
}

void append_plan(nlohmann::ordered_json& to, const Plan& plan) {
    using Json = nlohmann::ordered_json;
    to["next"] = plan.next;
    to["steps"] = Json::array();
    for (const auto& s : plan.steps)
        to["steps"].push_back(
            {{"argv", s.argv},
             {"why", s.why},
             {"seconds", s.seconds ? Json(std::round(*s.seconds * 10) / 10) : Json(nullptr)},
             {"brings", s.brings}});
}

}  // namespace undershelf
