// Loaded before the C library by tests: of all calls by which a program writes to files, the one with a
// certain number fails, or is the program's last. SQLite's and the standard library's calls are among them.
//
// FAULT_AT=N      which one, from 1; unset: none
// FAULT_HOW=WORD  `fail`, `full` (no room) or `kill`
// FAULT_COUNT=F   how many there were is written to this file at the end

#include <dlfcn.h>
#include <fcntl.h>
#include <linux/openat2.h>
#include <signal.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <time.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstdarg>
#include <cstdio>
#include <cstdlib>
#include <cstring>

namespace {

std::atomic<long> calls{0};
pid_t first_process = 0;

template <class Function>
Function* real(const char* name) {
    return reinterpret_cast<Function*>(::dlsym(RTLD_NEXT, name));
}

/// Counts a call. True when it is to fail, with errno set.
bool is_faulty() {
    static const char* at = std::getenv("FAULT_AT");
    static const char* how = std::getenv("FAULT_HOW");
    // Programs that it starts do not count.
    if (first_process != ::getpid()) return false;
    const long number = ++calls;
    if (!at || number != std::atol(at)) return false;
    if (how && std::strcmp(how, "kill") == 0) ::kill(::getpid(), SIGKILL);
    errno = how && std::strcmp(how, "full") == 0 ? ENOSPC : EIO;
    return true;
}

bool is_file(int fd) {
    const int error = errno;
    struct stat s {};
    const bool yes = fd > 2 && ::fstat(fd, &s) == 0 && S_ISREG(s.st_mode);
    errno = error;
    return yes;
}

bool is_for_writing(int flags) {
    return (flags & O_ACCMODE) != O_RDONLY || flags & O_CREAT;
}
bool matters(const char* path) {
    return std::strncmp(path, "/dev/", 5) != 0 && std::strncmp(path, "/proc/", 6) != 0;
}

__attribute__((constructor)) void begin() {
    first_process = ::getpid();
}

__attribute__((destructor)) void say() {
    const char* file = std::getenv("FAULT_COUNT");
    if (!file || first_process != ::getpid()) return;
    const int fd =
        static_cast<int>(::syscall(SYS_openat, AT_FDCWD, file, O_WRONLY | O_CREAT | O_TRUNC, 0600));
    char text[32];
    const int length = std::snprintf(text, sizeof text, "%ld\n", calls.load());
    ::syscall(SYS_write, fd, text, length);
    ::syscall(SYS_close, fd);
}

mode_t mode_in(int flags, va_list rest) {
    return flags & (O_CREAT | __O_TMPFILE) ? static_cast<mode_t>(va_arg(rest, int)) : 0;
}

}  // namespace

extern "C" {

#define UNDERSHELF_OPEN(name)                                                 \
    int name(const char* path, int flags, ...) {                              \
        va_list rest;                                                         \
        va_start(rest, flags);                                                \
        const auto mode = mode_in(flags, rest);                               \
        va_end(rest);                                                         \
        if (is_for_writing(flags) && matters(path) && is_faulty()) return -1; \
        return real<int(const char*, int, ...)>(#name)(path, flags, mode);    \
    }
UNDERSHELF_OPEN(open)
UNDERSHELF_OPEN(open64)
#undef UNDERSHELF_OPEN

#define UNDERSHELF_OPENAT(name)                                                         \
    int name(int folder, const char* path, int flags, ...) {                            \
        va_list rest;                                                                   \
        va_start(rest, flags);                                                          \
        const auto mode = mode_in(flags, rest);                                         \
        va_end(rest);                                                                   \
        if (is_for_writing(flags) && matters(path) && is_faulty()) return -1;           \
        return real<int(int, const char*, int, ...)>(#name)(folder, path, flags, mode); \
    }
UNDERSHELF_OPENAT(openat)
UNDERSHELF_OPENAT(openat64)
#undef UNDERSHELF_OPENAT

/// openat2 has no function of its own.
long syscall(long number, ...) {
    va_list rest;
    va_start(rest, number);
    long a[6];
    for (auto& x : a) x = va_arg(rest, long);
    va_end(rest);
    if (number == SYS_openat2) {
        const auto* how = reinterpret_cast<const struct open_how*>(a[2]);
        if (is_for_writing(static_cast<int>(how->flags)) && is_faulty()) return -1;
    }
    return real<long(long, ...)>("syscall")(number, a[0], a[1], a[2], a[3], a[4], a[5]);
}

ssize_t write(int fd, const void* data, size_t size) {
    if (is_file(fd) && is_faulty()) return -1;
    return real<ssize_t(int, const void*, size_t)>("write")(fd, data, size);
}
ssize_t pwrite(int fd, const void* data, size_t size, off_t at) {
    if (is_file(fd) && is_faulty()) return -1;
    return real<ssize_t(int, const void*, size_t, off_t)>("pwrite")(fd, data, size, at);
}
ssize_t pwrite64(int fd, const void* data, size_t size, off64_t at) {
    if (is_file(fd) && is_faulty()) return -1;
    return real<ssize_t(int, const void*, size_t, off64_t)>("pwrite64")(fd, data, size, at);
}

#define UNDERSHELF_ON_FILE(name, parameters, arguments, types) \
    int name parameters {                                      \
        if (is_faulty()) return -1;                            \
        return real<int types>(#name) arguments;               \
    }
UNDERSHELF_ON_FILE(fsync, (int fd), (fd), (int))
UNDERSHELF_ON_FILE(fdatasync, (int fd), (fd), (int))
UNDERSHELF_ON_FILE(syncfs, (int fd) noexcept, (fd), (int))
UNDERSHELF_ON_FILE(ftruncate, (int fd, off_t size) noexcept, (fd, size), (int, off_t))
UNDERSHELF_ON_FILE(ftruncate64, (int fd, off64_t size) noexcept, (fd, size), (int, off64_t))
UNDERSHELF_ON_FILE(fallocate, (int fd, int mode, off_t at, off_t size), (fd, mode, at, size),
                   (int, int, off_t, off_t))
UNDERSHELF_ON_FILE(rename, (const char* from, const char* to) noexcept, (from, to),
                   (const char*, const char*))
UNDERSHELF_ON_FILE(renameat, (int a, const char* from, int b, const char* to) noexcept, (a, from, b, to),
                   (int, const char*, int, const char*))
UNDERSHELF_ON_FILE(renameat2, (int a, const char* from, int b, const char* to, unsigned flags) noexcept,
                   (a, from, b, to, flags), (int, const char*, int, const char*, unsigned))
UNDERSHELF_ON_FILE(link, (const char* from, const char* to) noexcept, (from, to), (const char*, const char*))
UNDERSHELF_ON_FILE(unlink, (const char* path) noexcept, (path), (const char*))
UNDERSHELF_ON_FILE(unlinkat, (int folder, const char* path, int flags) noexcept, (folder, path, flags),
                   (int, const char*, int))
UNDERSHELF_ON_FILE(mkdir, (const char* path, mode_t mode) noexcept, (path, mode), (const char*, mode_t))
UNDERSHELF_ON_FILE(mkdirat, (int folder, const char* path, mode_t mode) noexcept, (folder, path, mode),
                   (int, const char*, mode_t))
#undef UNDERSHELF_ON_FILE

}  // extern "C"
