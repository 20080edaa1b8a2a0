#include "decoder/wall.hpp"

#include <fcntl.h>
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/mman.h>
#include <sys/resource.h>
#include <sys/socket.h>
#include <sys/syscall.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cerrno>
#include <cstdlib>
#include <functional>
#include <thread>

namespace undershelf {

#ifndef UNDERSHELF_SANITIZED
/// Each attempt is that of a child of this process, behind a wall of its own.
int ends_behind(Outside outside, const std::function<void()>& attempt) {
    const auto child = ::fork();
    if (child == 0) {
        if (!close_wall(2ull << 30, outside)) ::_exit(77);
        attempt();
        ::_exit(0);
    }
    int status = 0;
    ::waitpid(child, &status, 0);
    return WIFSIGNALED(status) ? -WTERMSIG(status) : WEXITSTATUS(status);
}

TEST(Wall, LetsNothingOut) {
    const auto ends = [](const std::function<void()>& attempt) {
        return ends_behind(Outside::nothing, attempt);
    };
    EXPECT_EQ(ends([] {}), 0);
    EXPECT_EQ(ends([] { ::_exit(::open("/etc/passwd", O_RDONLY) < 0 && errno == EACCES ? 0 : 1); }), 0);
    EXPECT_EQ(ends([] { ::_exit(std::malloc(1 << 20) ? 0 : 1); }), 0);
    EXPECT_EQ(ends([] { ::socket(AF_INET, SOCK_STREAM, 0); }), -SIGSYS);
    EXPECT_EQ(ends([] { ::fork(); }), -SIGSYS);
    EXPECT_EQ(ends([] { ::kill(::getppid(), SIGTERM); }), -SIGSYS);
    EXPECT_EQ(ends([] { ::syscall(SYS_tgkill, ::getppid(), ::getppid(), SIGTERM); }), -SIGSYS);
    EXPECT_EQ(ends([] { ::syscall(SYS_prlimit64, ::getppid(), RLIMIT_CORE, nullptr, nullptr); }), -SIGSYS);
    EXPECT_EQ(ends([] { ::abort(); }), -SIGABRT);
    EXPECT_EQ(ends([] {
                  rlimit limit{};
                  ::_exit(::getrlimit(RLIMIT_DATA, &limit) == 0 ? 0 : 1);
              }),
              0);
    EXPECT_EQ(ends([] { ::unlink("/tmp/nothing"); }), -SIGSYS);
    EXPECT_EQ(ends([] { ::execl("/bin/true", "true", nullptr); }), -SIGSYS);
    EXPECT_EQ(ends([] { ::mmap(nullptr, 4096, PROT_READ | PROT_EXEC, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0); }),
              -SIGSYS);
}

TEST(Wall, LetsWhatDrawsSeeFontsAlone) {
    const auto ends = [](const std::function<void()>& attempt) {
        return ends_behind(Outside::fonts, attempt);
    };
    const auto opens = [&](const char* path, int flags) {
        return ends([&] { ::_exit(::open(path, flags) >= 0 ? 1 : 0); });
    };
    EXPECT_EQ(opens("/etc/fonts", O_RDONLY | O_DIRECTORY), 1);
    EXPECT_EQ(opens("/etc/fonts/../passwd", O_RDONLY), 0);
    EXPECT_EQ(opens("/etc/passwd", O_RDONLY), 0);
    EXPECT_EQ(opens("/proc/self/environ", O_RDONLY), 0);
    EXPECT_EQ(opens("/etc/fonts/new", O_WRONLY | O_CREAT), -SIGSYS);
    EXPECT_EQ(ends([] { ::socket(AF_INET, SOCK_STREAM, 0); }), -SIGSYS);
    EXPECT_EQ(ends([] { ::fork(); }), -SIGSYS);
    EXPECT_EQ(ends([] { ::kill(::getppid(), SIGTERM); }), -SIGSYS);
    EXPECT_EQ(ends([] { ::execl("/bin/true", "true", nullptr); }), -SIGSYS);
    EXPECT_EQ(ends([] { ::unlink("/tmp/nothing"); }), -SIGSYS);
    EXPECT_EQ(ends([] { std::thread([] {}).join(); }), 0);
}
#endif

}  // namespace undershelf
