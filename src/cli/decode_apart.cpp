#include "cli/decode_apart.hpp"

#include <sys/prctl.h>
#include <sys/resource.h>
#include <unistd.h>

#include <csignal>
#include <cstdlib>

#include "content/apart.hpp"

namespace undershelf::cli {

namespace {

void bound(int resource, rlim_t most) {
    const rlimit limit{most, most};
    ::setrlimit(static_cast<__rlimit_resource_t>(resource), &limit);
}

// Sanitizers reserve terabytes of address space, and read files about the process.
#if defined(__SANITIZE_ADDRESS__)
constexpr bool sanitized = true;
#elif defined(__has_feature)
constexpr bool sanitized = __has_feature(address_sanitizer);
#else
constexpr bool sanitized = false;
#endif

}  // namespace

bool is_decode_apart(const std::vector<std::string>& arguments) {
    return arguments.size() == 2 && arguments[0] == DecodersApart::command;
}

int decode_apart(const std::vector<std::string>& arguments) {
    // What the one who started it had open is none of its business.
    ::close_range(STDERR_FILENO + 1, ~0u, 0);
    ::prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0);
    std::signal(SIGINT, SIG_IGN);  // Ctrl-C is for the one who asks, who closes the socket when done
    bound(RLIMIT_CORE, 0);
    bound(RLIMIT_FSIZE, 0);
    if (!sanitized) bound(RLIMIT_NOFILE, STDERR_FILENO + 1);
    if (!sanitized) bound(RLIMIT_AS, std::strtoull(arguments[1].c_str(), nullptr, 10));
    return serve_checks(STDIN_FILENO);
}

std::string own_program() {
    return "/proc/self/exe";
}

}  // namespace undershelf::cli
