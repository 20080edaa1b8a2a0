#pragma once
// What to do next: sentences for people, and steps for programs.

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/command_line.hpp"

namespace undershelf {

/// One command. Places that somebody has to fill in are in capitals: DIR, IMAGE, SOURCE.
struct Step {
    std::vector<std::string> argv;  ///< `undershelf` first
    std::string why;                ///< a sentence
    std::optional<double> seconds;  ///< that it takes, where that is known
    std::string brings;             ///< what comes of it, without a full stop
};

/// In the order in which technicians work: the first step is the one to take. No step: it is over.
struct Plan {
    std::vector<std::string> next;
    std::vector<Step> steps;

    void say(std::string_view sentence) { next.emplace_back(sentence); }
    /// The step, and its sentence: why, how long, and the command last.
    void add(Step step);
};

/// `about 3 min`; `seconds` where it takes no longer.
std::string about(double seconds);
/// `next` and `steps`.
void append_plan(nlohmann::ordered_json& to, const Plan& plan);

}  // namespace undershelf
