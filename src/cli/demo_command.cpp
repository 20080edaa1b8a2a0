#include "cli/command.hpp"
namespace undershelf::cli {
Command demo_command() {
    return {"demo", "[DIR]", "run the whole job on the shipped demo volumes",
            [](const std::vector<std::string>&) { return 0; }};
}
}  // namespace undershelf::cli
