#include "cli/command.hpp"

namespace undershelf::cli {

StopFlag& stop_flag() {
    static StopFlag flag{0};
    return flag;
}

const std::vector<Command>& commands() {
    static const std::vector<Command> all{
        sources_command(), inspect_command(), capture_command(), scan_command(),   check_command(),
        list_command(),    tree_command(),    summary_command(), show_command(),   peek_command(),
        sheet_command(),   mark_command(),    unmark_command(),  export_command(), verify_command(),
        report_command(),  demo_command()};
    return all;
}

}  // namespace undershelf::cli
