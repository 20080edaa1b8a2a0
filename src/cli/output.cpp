#include "cli/output.hpp"

#include <fcntl.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <nlohmann/json.hpp>

#include "base/error.hpp"
#include "base/json_text.hpp"
#include "base/printable.hpp"

namespace undershelf::cli {

namespace {
[[noreturn]] void fail(int code) {
    throw Error(Trouble::output,
                fmt::format("The output cannot be written: {}.", code == ENOSPC  ? "its file system is full"
                                                                 : code == EBADF ? "standard output is closed"
                                                                                 : std::strerror(code)));
}
}  // namespace

void claim_standard_files() {
    for (const int fd : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO}) {
        // Opened the other way round, so that using it fails as it would have.
        if (::fcntl(fd, F_GETFD) < 0 && errno == EBADF)
            (void)!::open("/dev/null", fd == STDIN_FILENO ? O_WRONLY : O_RDONLY);
    }
}

void write_out(std::string_view text) {
    if (std::fwrite(text.data(), 1, text.size(), stdout) < text.size()) fail(errno);
}

void flush_out() {
    if (std::fflush(stdout) != 0) fail(errno);
}

void write_note(std::string_view text) {
    (void)!std::fwrite(text.data(), 1, text.size(), stderr);
}

void print_json(const nlohmann::ordered_json& value) {
    print("{}\n", with_json_escapes(json_text(value, 2)));
}

}  // namespace undershelf::cli
