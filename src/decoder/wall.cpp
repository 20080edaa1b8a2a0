#include "decoder/wall.hpp"

#include <seccomp.h>
#include <sys/prctl.h>
#include <sys/resource.h>
#include <unistd.h>

#include <cerrno>
#include <csignal>
#include <ctime>
#include <iterator>

namespace undershelf {

namespace {

// Sanitizers reserve terabytes of address space, read files about the process, and start another one at its
// end.
#if defined(__SANITIZE_ADDRESS__)
constexpr bool sanitized = true;
#elif defined(__has_feature)
constexpr bool sanitized = __has_feature(address_sanitizer);
#else
constexpr bool sanitized = false;
#endif

void bound(int resource, rlim_t most) {
    const rlimit limit{most, most};
    ::setrlimit(static_cast<__rlimit_resource_t>(resource), &limit);
}

/// Everything that decoders and the C library do to compute, and to talk on what is open.
constexpr int allowed[] = {SCMP_SYS(read),
                           SCMP_SYS(write),
                           SCMP_SYS(readv),
                           SCMP_SYS(writev),
                           SCMP_SYS(recvfrom),
                           SCMP_SYS(sendto),
                           SCMP_SYS(poll),
                           SCMP_SYS(ppoll),
                           SCMP_SYS(close),
                           SCMP_SYS(lseek),
                           SCMP_SYS(fstat),
                           SCMP_SYS(brk),
                           SCMP_SYS(munmap),
                           SCMP_SYS(mremap),
                           SCMP_SYS(madvise),
                           SCMP_SYS(futex),
                           SCMP_SYS(set_robust_list),
                           SCMP_SYS(rseq),
                           SCMP_SYS(sched_yield),
                           SCMP_SYS(sched_getaffinity),
                           SCMP_SYS(getpid),
                           SCMP_SYS(gettid),
                           SCMP_SYS(getuid),
                           SCMP_SYS(geteuid),
                           SCMP_SYS(getgid),
                           SCMP_SYS(getegid),
                           SCMP_SYS(clock_gettime),
                           SCMP_SYS(clock_getres),
                           SCMP_SYS(clock_nanosleep),
                           SCMP_SYS(nanosleep),
                           SCMP_SYS(gettimeofday),
                           SCMP_SYS(time),
                           SCMP_SYS(getrandom),
                           SCMP_SYS(sysinfo),
                           SCMP_SYS(uname),
                           SCMP_SYS(alarm),
                           SCMP_SYS(setitimer),
                           SCMP_SYS(rt_sigaction),
                           SCMP_SYS(rt_sigprocmask),
                           SCMP_SYS(rt_sigreturn),
                           SCMP_SYS(sigaltstack),
                           SCMP_SYS(restart_syscall),
                           SCMP_SYS(exit),
                           SCMP_SYS(exit_group),
                           SCMP_SYS(getrlimit),
                           SCMP_SYS(setrlimit),
                           SCMP_SYS(getrusage)};
/// Libraries look for settings of theirs, and go on without.
constexpr int refused[] = {SCMP_SYS(open),      SCMP_SYS(openat), SCMP_SYS(openat2),    SCMP_SYS(access),
                           SCMP_SYS(faccessat), SCMP_SYS(stat),   SCMP_SYS(lstat),      SCMP_SYS(statx),
                           SCMP_SYS(readlink),  SCMP_SYS(getcwd), SCMP_SYS(readlinkat), SCMP_SYS(faccessat2),
                           SCMP_SYS(fcntl),     SCMP_SYS(ioctl),  SCMP_SYS(newfstatat)};

/// 0, or an error number.
int filter() {
    const scmp_filter_ctx rules = ::seccomp_init(SCMP_ACT_KILL_PROCESS);
    if (!rules) return ENOMEM;
    int trouble = 0;
    const auto add = [&](int result) {
        if (result != 0 && trouble == 0) trouble = -result;
    };
    for (const int call : allowed) add(::seccomp_rule_add(rules, SCMP_ACT_ALLOW, call, 0));
    for (const int call : refused) add(::seccomp_rule_add(rules, SCMP_ACT_ERRNO(EACCES), call, 0));
    // Memory, and none of it to run as a program. PROT_EXEC is 4.
    constexpr unsigned runs = 4;
    for (const int call : {SCMP_SYS(mmap), SCMP_SYS(mprotect)}) {
        add(::seccomp_rule_add(rules, SCMP_ACT_ALLOW, call, 1, SCMP_A2(SCMP_CMP_MASKED_EQ, runs, 0)));
    }
    // Itself alone may it end, and bound.
    const auto self = static_cast<scmp_datum_t>(::getpid());
    add(::seccomp_rule_add(rules, SCMP_ACT_ALLOW, SCMP_SYS(tgkill), 1, SCMP_A0(SCMP_CMP_EQ, self)));
    add(::seccomp_rule_add(rules, SCMP_ACT_ALLOW, SCMP_SYS(prlimit64), 1, SCMP_A0(SCMP_CMP_EQ, 0)));
    if (trouble == 0) add(::seccomp_load(rules));
    ::seccomp_release(rules);
    return trouble;
}

}  // namespace

bool close_wall(std::uint64_t memory) {
    // What is looked for in files at first use.
    ::tzset();
    // Files of the program that started it.
    ::close_range(STDERR_FILENO + 1, ~0u, 0);
    ::prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0);
    std::signal(SIGINT, SIG_IGN);  // Ctrl-C is for the one who asks, who closes the socket when done
    bound(RLIMIT_CORE, 0);
    bound(RLIMIT_FSIZE, 0);
    if (sanitized) return true;
    bound(RLIMIT_NOFILE, STDERR_FILENO + 1);
    bound(RLIMIT_AS, memory);
    errno = filter();
    return errno == 0;
}

}  // namespace undershelf
