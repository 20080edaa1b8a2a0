#include "cli/under_way.hpp"

#include "base/timestamp.hpp"

namespace undershelf::cli {

UnderWay& under_way() {
    static UnderWay one{{program_version, {}}, iso8601(now_utc()), {}};
    return one;
}

const CommandLine& noted_in(const std::string& shelf) {
    under_way().shelf = shelf;
    return under_way().line;
}

void note_end(int status) {
    const auto& it = under_way();
    if (!it.shelf.empty()) note_exit(it.shelf, it.line, it.began, status);
}

}  // namespace undershelf::cli
