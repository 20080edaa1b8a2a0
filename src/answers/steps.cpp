#include "answers/steps.hpp"

#include <fmt/format.h>

#include <cmath>
#include <nlohmann/json.hpp>

#include "base/amounts.hpp"

namespace undershelf {

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
