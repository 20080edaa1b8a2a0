#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "answers/planner.hpp"
#include "answers/results_json.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/progress_line.hpp"
#include "cli/table.hpp"
#include "export/verify.hpp"

namespace undershelf::cli {

namespace {

/// Nobody reads through thousands of them.
void tell_of_unfinished(const Verification& result) {
    constexpr std::size_t most = 20;
    for (std::size_t i = 0; i < std::min(most, result.unfinished.size()); ++i)
        print("{}\n", fitted(result.unfinished[i], 400));
    if (result.unfinished.size() > most)
        print("... and {} more files of that round: --format json names them all.\n",
              grouped(result.unfinished.size() - most));
}

void print_result(const std::string& folder, const Verification& result) {
    for (const auto& sentence : result.differences) print("{}\n", fitted(sentence, 400));
    tell_of_unfinished(result);
    if (!result.any_finished) {
        print("{}: no round is finished yet; {} there\n", folder,
              counted(result.unfinished.size(), "file is", "files are"));
        return;
    }
    std::string what;
    for (const auto& [count, word] : {std::pair{result.changed, "changed"},
                                      {result.missing, "missing"},
                                      {result.extra, "added"},
                                      {result.unreadable, "not readable"}}) {
        if (count) what += fmt::format(", {} {}", grouped(count), word);
    }
    print("{}: {} of {} as written{}; {} checked\n", folder, grouped(result.as_written),
          counted(result.files, "file", "files"), what, human_size(result.bytes));
}

int run(const std::vector<std::string>& arguments) {
    po::options_description options("Options");
    add_script_options(options);
    const auto given = parse(verify_command(), options, {"DIR"}, arguments);
    if (!given) return done;
    const bool json = wants_json(*given);
    const auto folder = (*given)[":DIR"].as<std::string>();
    Verification result;
    {
        ProgressLine progress(true, progress_form(*given));
        result = verify_bag(folder, progress);
    }
    const auto next = result.interrupted ? Plan() : plan_after_verify(folder, result);
    if (json) {
        print_json(verify_json(folder, result, next));
    } else {
        print_result(folder, result);
        print_points(Terminal(), "WHAT NEXT", next.next);
    }
    flush_out();
    if (result.interrupted) {
        note("undershelf: interrupted; the rest was not checked.\n");
        return interrupted;
    }
    if (result.differences.empty() && !result.unfinished_command) return done;
    if (result.unfinished_command)
        note("undershelf: a round of {} is not finished. Its command, given again, goes on with it.\n",
             folder);
    if (!result.differences.empty())
        note("undershelf: the export is not as it was written: {}.\n",
             counted(result.differences.size(), "difference", "differences"));
    return status_for_scripts(fell_short, *given);
}

}  // namespace

Command verify_command() {
    return {"verify", "DIR", "check an export against its manifests", run, true, true};
}

}  // namespace undershelf::cli
