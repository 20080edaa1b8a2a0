#include "decoder/wall.hpp"

#include <fcntl.h>
#include <linux/landlock.h>
#include <sched.h>
#include <seccomp.h>
#include <sys/prctl.h>
#include <sys/resource.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <ctime>
#include <functional>
#include <string>

#include "base/file_descriptor.hpp"

// What libseccomp's macros for arguments are made of.
#ifdef __clang__
#pragma clang diagnostic ignored "-Wc99-extensions"
#pragma clang diagnostic ignored "-Wmissing-field-initializers"
#endif

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
/// What drawing takes beside that: looking at files, as far as Landlock lets it, and threads.
constexpr int allowed_to_draw[] = {SCMP_SYS(access),         SCMP_SYS(faccessat),
                                   SCMP_SYS(faccessat2),     SCMP_SYS(stat),
                                   SCMP_SYS(lstat),          SCMP_SYS(statx),
                                   SCMP_SYS(newfstatat),     SCMP_SYS(statfs),
                                   SCMP_SYS(fstatfs),        SCMP_SYS(getdents64),
                                   SCMP_SYS(readlink),       SCMP_SYS(readlinkat),
                                   SCMP_SYS(pread64),        SCMP_SYS(dup),
                                   SCMP_SYS(eventfd2),       SCMP_SYS(getcwd),
                                   SCMP_SYS(sched_getparam), SCMP_SYS(sched_getscheduler),
                                   SCMP_SYS(membarrier)};
/// Libraries look for settings of theirs, and go on without.
constexpr int refused[] = {SCMP_SYS(open),      SCMP_SYS(openat), SCMP_SYS(openat2),    SCMP_SYS(access),
                           SCMP_SYS(faccessat), SCMP_SYS(stat),   SCMP_SYS(lstat),      SCMP_SYS(statx),
                           SCMP_SYS(readlink),  SCMP_SYS(getcwd), SCMP_SYS(readlinkat), SCMP_SYS(faccessat2),
                           SCMP_SYS(fcntl),     SCMP_SYS(ioctl),  SCMP_SYS(newfstatat)};

/// Folders with fonts, with what says which are there, and with the characters of documents in other scripts.
constexpr const char* font_folders[] = {"/etc/fonts",
                                        "/usr/share/fonts",
                                        "/usr/local/share/fonts",
                                        "/usr/share/fontconfig",
                                        "/var/cache/fontconfig",
                                        "/usr/share/poppler",
                                        "/usr/share/X11/fonts"};
constexpr const char* own_font_folders[] = {".fonts", ".local/share/fonts", ".cache/fontconfig",
                                            ".config/fontconfig"};

/// From then on nothing can be opened but to read, and nothing outside these folders. False where the system
/// does not know how.
bool see_fonts_alone() {
    const auto version = ::syscall(SYS_landlock_create_ruleset, nullptr, 0, LANDLOCK_CREATE_RULESET_VERSION);
    if (version < 1) return false;
    constexpr std::uint64_t of_first_version = (LANDLOCK_ACCESS_FS_MAKE_SYM << 1) - 1, may_refer = 1 << 13,
                            may_truncate = 1 << 14;
    landlock_ruleset_attr wanted{};
    wanted.handled_access_fs =
        of_first_version | (version >= 2 ? may_refer : 0) | (version >= 3 ? may_truncate : 0);
    const FileDescriptor rules(
        static_cast<int>(::syscall(SYS_landlock_create_ruleset, &wanted, sizeof wanted, 0)));
    if (rules.get() < 0) return false;
    const auto let = [&](const std::string& folder) {
        const FileDescriptor there(::open(folder.c_str(), O_PATH | O_CLOEXEC));
        if (there.get() < 0) return;
        const landlock_path_beneath_attr rule{LANDLOCK_ACCESS_FS_READ_FILE | LANDLOCK_ACCESS_FS_READ_DIR,
                                              there.get()};
        ::syscall(SYS_landlock_add_rule, rules.get(), LANDLOCK_RULE_PATH_BENEATH, &rule, 0);
    };
    for (const char* const folder : font_folders) let(folder);
    const char* const home = std::getenv("HOME");
    for (const char* const folder : own_font_folders) {
        if (home && *home) let(std::string(home) + "/" + folder);
    }
    return ::syscall(SYS_landlock_restrict_self, rules.get(), 0) == 0;
}

/// Reading files alone, threads alone: whatever flags come with it.
void let_draw(scmp_filter_ctx rules, bool sees_fonts, const std::function<void(int)>& add) {
    for (const int call : allowed_to_draw) add(::seccomp_rule_add(rules, SCMP_ACT_ALLOW, call, 0));
    constexpr scmp_datum_t writes = O_ACCMODE | O_CREAT | O_TRUNC;
    if (sees_fonts) {
        add(::seccomp_rule_add(rules, SCMP_ACT_ALLOW, SCMP_SYS(open), 1,
                               SCMP_A1(SCMP_CMP_MASKED_EQ, writes, 0)));
        add(::seccomp_rule_add(rules, SCMP_ACT_ALLOW, SCMP_SYS(openat), 1,
                               SCMP_A2(SCMP_CMP_MASKED_EQ, writes, 0)));
    } else {
        for (const int call : {SCMP_SYS(open), SCMP_SYS(openat)})
            add(::seccomp_rule_add(rules, SCMP_ACT_ERRNO(EACCES), call, 0));
    }
    for (const scmp_datum_t command : {F_GETFD, F_SETFD, F_GETFL, F_DUPFD_CLOEXEC})
        add(::seccomp_rule_add(rules, SCMP_ACT_ALLOW, SCMP_SYS(fcntl), 1, SCMP_A1(SCMP_CMP_EQ, command)));
    add(::seccomp_rule_add(rules, SCMP_ACT_ALLOW, SCMP_SYS(clone), 1,
                           SCMP_A0(SCMP_CMP_MASKED_EQ, CLONE_THREAD, CLONE_THREAD)));
    // Its flags are in memory, where they cannot be seen; the C library goes on with the older call.
    for (const int call : {SCMP_SYS(clone3), SCMP_SYS(openat2), SCMP_SYS(ioctl), SCMP_SYS(prctl),
                           SCMP_SYS(sched_getattr), SCMP_SYS(sched_setattr)})
        add(::seccomp_rule_add(rules, SCMP_ACT_ERRNO(ENOSYS), call, 0));
}

/// 0, or an error number.
int filter(Outside outside, bool sees_fonts) {
    const scmp_filter_ctx rules = ::seccomp_init(SCMP_ACT_KILL_PROCESS);
    if (!rules) return ENOMEM;
    int trouble = 0;
    const auto add = [&](int result) {
        if (result != 0 && trouble == 0) trouble = -result;
    };
    for (const int call : allowed) add(::seccomp_rule_add(rules, SCMP_ACT_ALLOW, call, 0));
    if (outside == Outside::fonts) {
        let_draw(rules, sees_fonts, add);
    } else {
        for (const int call : refused) add(::seccomp_rule_add(rules, SCMP_ACT_ERRNO(EACCES), call, 0));
    }
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

bool close_wall(std::uint64_t memory, Outside outside) {
    // What is looked for in files at first use.
    ::tzset();
    // Files of the program that started it.
    ::close_range(STDERR_FILENO + 1, ~0u, 0);
    ::prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0);
    std::signal(SIGINT, SIG_IGN);  // Ctrl-C is for the one who asks, who closes the socket when done
    bound(RLIMIT_CORE, 0);
    bound(RLIMIT_FSIZE, 0);
    if (sanitized) return true;
    constexpr rlim_t font_files = 64;
    const bool sees_fonts = outside == Outside::fonts && see_fonts_alone();
    bound(RLIMIT_NOFILE, STDERR_FILENO + 1 + (sees_fonts ? font_files : 0));
    bound(RLIMIT_AS, memory);
    errno = filter(outside, sees_fonts);
    return errno == 0;
}

}  // namespace undershelf
