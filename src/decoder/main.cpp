// undershelf-decoder: reads contents for undershelf, which starts it, and nobody else; or draws them, with a
// module that is beside it.

#include <dlfcn.h>
#include <unistd.h>

#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>

#include "content/apart_messages.hpp"
#include "decoder/server.hpp"
#include "decoder/wall.hpp"

namespace {

const undershelf::drawing::Module* drawing_module() {
    using namespace undershelf::drawing;
    std::error_code ec;
    const auto own = std::filesystem::read_symlink("/proc/self/exe", ec);
    void* const library = ::dlopen((own.parent_path() / module_name).c_str(), RTLD_NOW | RTLD_LOCAL);
    void* const entry = library ? ::dlsym(library, entry_point) : nullptr;
    if (!entry) {
        std::fprintf(stderr, "undershelf-decoder: %s\n", ::dlerror());
        return nullptr;
    }
    const auto* out = reinterpret_cast<const Module* (*)()>(entry)();
    out->prepare();
    return out;
}

}  // namespace

int main(int argc, char** argv) {
    using namespace undershelf;
    const auto memory = argc >= 2 ? std::strtoull(argv[1], nullptr, 10) : 0;
    if (memory == 0 || ::isatty(STDIN_FILENO)) {
        std::fputs(
            "undershelf-decoder reads contents for undershelf, which starts it. There is nothing to be "
            "typed.\n",
            stderr);
        return 2;
    }
    const bool draws = argc >= 3 && std::strcmp(argv[2], content::drawing_task) == 0;
    const auto* module = draws ? drawing_module() : nullptr;
    if (draws && !module) return 1;
    own_data();
    if (!close_wall(memory, draws ? Outside::fonts : Outside::nothing)) {
        std::perror("undershelf-decoder: no wall can be put up around it");
        return 1;
    }
    return serve_contents(STDIN_FILENO, module);
}
