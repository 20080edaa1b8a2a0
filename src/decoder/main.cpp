// undershelf-decoder: reads contents for undershelf, which starts it, and nobody else.

#include <unistd.h>

#include <cstdio>
#include <cstdlib>

#include "decoder/server.hpp"
#include "decoder/wall.hpp"

int main(int argc, char** argv) {
    const auto memory = argc == 2 ? std::strtoull(argv[1], nullptr, 10) : 0;
    if (memory == 0 || ::isatty(STDIN_FILENO)) {
        std::fputs(
            "undershelf-decoder reads contents for undershelf, which starts it. There is nothing to be "
            "typed.\n",
            stderr);
        return 2;
    }
    if (!undershelf::close_wall(memory)) {
        std::perror("undershelf-decoder: no wall can be put up around it");
        return 1;
    }
    return undershelf::serve_contents(STDIN_FILENO);
}
