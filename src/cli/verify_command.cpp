#include <fmt/format.h>

#include "cli/command.hpp"
#include "cli/output.hpp"
#include "cli/progress_line.hpp"
#include "export/verify.hpp"

namespace undershelf::cli {

namespace {

int run(const std::vector<std::string>& arguments) {
    const auto given = parse(verify_command(), po::options_description{}, {"DIR"}, arguments);
    if (!given) return done;
    const auto folder = (*given)[":DIR"].as<std::string>();
    Verification result;
    {
        ProgressLine progress(true);
        result = verify_bag(folder, progress);
    }
    for (const auto& sentence : result.differences) print("{}\n", fitted(sentence, 400));
    std::string what;
    for (const auto& [count, word] : {std::pair{result.changed, "changed"},
                                      {result.missing, "missing"},
                                      {result.extra, "added"},
                                      {result.unreadable, "not readable"}}) {
        if (count) what += fmt::format(", {} {}", grouped(count), word);
    }
    print("{}: {} of {} sound{}; {} checked\n", folder, grouped(result.sound),
          counted(result.files, "file", "files"), what, human_size(result.bytes));
    if (result.interrupted) {
        note("undershelf: interrupted; the rest was not checked.\n");
        return interrupted;
    }
    if (result.differences.empty()) return done;
    flush_out();
    note(
        "undershelf: the export is not as it was written: {}. Export what is wrong once more, into a new "
        "folder.\n",
        counted(result.differences.size(), "difference", "differences"));
    return fell_short;
}

}  // namespace

Command verify_command() {
    return {"verify", "DIR", "check an export against its manifests", run, true, true};
}

}  // namespace undershelf::cli
