#include "writing/folder.hpp"

#include <dirent.h>
#include <fcntl.h>
#include <limits.h>
#include <linux/openat2.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <filesystem>
#include <memory>
#include <system_error>

namespace undershelf {

namespace {

[[noreturn]] void fail(const std::string& path, int error = errno) {
    throw std::system_error(error, std::generic_category(), path);
}

/// The first name of a relative path, which is taken off it.
std::string take_name(std::string& path) {
    const auto slash = path.find('/');
    auto name = path.substr(0, slash);
    path = slash == std::string::npos ? std::string() : path.substr(slash + 1);
    return name;
}

FileDescriptor open_at_once(int folder, const std::string& relative, int flags, mode_t mode, bool one_mount) {
    struct open_how how {};
    how.flags = static_cast<std::uint64_t>(flags | O_CLOEXEC);
    if (flags & O_CREAT) how.mode = mode;
    how.resolve = RESOLVE_BENEATH | RESOLVE_NO_SYMLINKS | (one_mount ? RESOLVE_NO_XDEV : 0);
    // A rename elsewhere at the same time has it asked for again.
    constexpr int most_tries = 100;
    for (int i = 0; i < most_tries; ++i) {
        const auto fd = ::syscall(SYS_openat2, folder, relative.c_str(), &how, sizeof how);
        if (fd >= 0 || (errno != EAGAIN && errno != EINTR)) return FileDescriptor(static_cast<int>(fd));
    }
    return FileDescriptor();
}

FileDescriptor open_by_steps(int folder, std::string rest, int flags, mode_t mode, bool one_mount) {
    struct stat above {};
    if (::fstat(folder, &above) != 0) return FileDescriptor();
    FileDescriptor at;
    int from = folder;
    for (;;) {
        const auto name = take_name(rest);
        const int how = rest.empty() ? flags : O_PATH | O_DIRECTORY;
        FileDescriptor next(::openat(from, name.c_str(), how | O_NOFOLLOW | O_CLOEXEC, mode));
        struct stat status {};
        if (!next || ::fstat(next.get(), &status) != 0) {
            // A link where a folder was asked for.
            if (errno == ENOTDIR && ::fstatat(from, name.c_str(), &status, AT_SYMLINK_NOFOLLOW) == 0 &&
                S_ISLNK(status.st_mode))
                errno = ELOOP;
            return FileDescriptor();
        }
        // O_PATH opens links themselves.
        if (S_ISLNK(status.st_mode)) return errno = ELOOP, FileDescriptor();
        if (one_mount && status.st_dev != above.st_dev) return errno = EXDEV, FileDescriptor();
        if (rest.empty()) return next;
        at = std::move(next);
        from = at.get();
    }
}

struct CloseFolder {
    void operator()(DIR* dir) const { ::closedir(dir); }
};

}  // namespace

bool stays_below(const std::string& relative) {
    if (relative.empty() || relative.back() == '/') return false;
    for (auto rest = relative; !rest.empty();) {
        const auto name = take_name(rest);
        if (name.empty() || name == "." || name == "..") return false;
    }
    return relative.find('\0') == std::string::npos;
}

FileDescriptor open_beneath(int folder, const std::string& relative, int flags, mode_t mode, bool one_mount,
                            Beneath way) {
    if (!stays_below(relative)) return errno = EINVAL, FileDescriptor();
    if (way == Beneath::at_once) {
        auto fd = open_at_once(folder, relative, flags, mode, one_mount);
        // Older kernels do not know the call, and some sandboxes do not let it pass.
        if (fd || (errno != ENOSYS && errno != EPERM)) return fd;
    }
    return open_by_steps(folder, relative, flags, mode, one_mount);
}

Folder::Folder(const SourceGuard& guard, const std::string& path) : path_(path), one_mount_(true) {
    guard.refuse(path);
    std::filesystem::create_directories(path);
    fd_.reset(::open(path.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
    if (!fd_) fail(path);
    // What was made, or came to be there meanwhile.
    guard.refuse(path);
}

Folder::Folder(const std::string& path) : path_(path) {
    fd_.reset(::open(path.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
    if (!fd_) fail(path);
}

FileDescriptor Folder::open(const std::string& relative, int flags, mode_t mode) const {
    auto fd = relative.empty() ? FileDescriptor(::fcntl(fd_.get(), F_DUPFD_CLOEXEC, 0))
                               : open_beneath(fd_.get(), relative, flags, mode, one_mount_, Beneath::at_once);
    if (!fd) fail(relative);
    return fd;
}

std::optional<FileDescriptor> Folder::open_existing(const std::string& relative, int flags) const {
    try {
        return open(relative, flags & ~O_CREAT);
    } catch (const std::system_error& e) {
        if (e.code().value() == ENOENT) return std::nullopt;
        throw;
    }
}

FileDescriptor Folder::parent_of(const std::string& relative, std::string& name) const {
    if (!stays_below(relative)) fail(relative, EINVAL);
    const auto slash = relative.rfind('/');
    name = slash == std::string::npos ? relative : relative.substr(slash + 1);
    return open(slash == std::string::npos ? std::string() : relative.substr(0, slash), O_PATH | O_DIRECTORY);
}

std::optional<struct stat> Folder::status(const std::string& relative) const {
    std::string name;
    struct stat out {};
    try {
        const auto parent = parent_of(relative, name);
        if (::fstatat(parent.get(), name.c_str(), &out, AT_SYMLINK_NOFOLLOW) == 0) return out;
    } catch (const std::system_error& e) {
        if (e.code().value() == ENOENT || e.code().value() == ENOTDIR) return std::nullopt;
        throw;
    }
    if (errno == ENOENT) return std::nullopt;
    fail(relative);
}

bool Folder::is_file(const std::string& relative) const {
    const auto there = status(relative);
    return there && S_ISREG(there->st_mode);
}

void Folder::make_folders(const std::string& relative) const {
    if (open_existing(relative, O_PATH | O_DIRECTORY)) return;
    std::string made;
    for (auto rest = relative; !rest.empty();) {
        const auto above = open(made, O_PATH | O_DIRECTORY);
        const auto name = take_name(rest);
        if (::mkdirat(above.get(), name.c_str(), 0777) != 0 && errno != EEXIST) fail(relative);
        made += (made.empty() ? "" : "/") + name;
    }
    open(relative, O_PATH | O_DIRECTORY);
}

void Folder::rename(const std::string& from, const std::string& to) const {
    std::string from_name, to_name;
    const auto from_folder = parent_of(from, from_name), to_folder = parent_of(to, to_name);
    if (::renameat(from_folder.get(), from_name.c_str(), to_folder.get(), to_name.c_str()) != 0) fail(to);
}

void Folder::rename_without_replacing(const std::string& from, const std::string& to) const {
    std::string from_name, to_name;
    const auto from_folder = parent_of(from, from_name), to_folder = parent_of(to, to_name);
    if (::renameat2(from_folder.get(), from_name.c_str(), to_folder.get(), to_name.c_str(),
                    RENAME_NOREPLACE) == 0)
        return;
    if (errno != EINVAL && errno != ENOSYS) fail(to);
    // Some file systems cannot do it in one step.
    if (status(to)) fail(to, EEXIST);
    if (::renameat(from_folder.get(), from_name.c_str(), to_folder.get(), to_name.c_str()) != 0) fail(to);
}

void Folder::make_link(const std::string& target, const std::string& relative) const {
    std::string name;
    const auto parent = parent_of(relative, name);
    if (::symlinkat(target.c_str(), parent.get(), name.c_str()) != 0) fail(relative);
}

std::optional<std::string> Folder::link_target(const std::string& relative) const {
    const auto there = status(relative);
    if (!there || !S_ISLNK(there->st_mode)) return std::nullopt;
    std::string name;
    const auto parent = parent_of(relative, name);
    std::string out(PATH_MAX, '\0');
    const auto n = ::readlinkat(parent.get(), name.c_str(), out.data(), out.size());
    if (n < 0) fail(relative);
    out.resize(static_cast<std::size_t>(n));
    return out;
}

void Folder::remove(const std::string& relative) const {
    std::string name;
    const auto parent = parent_of(relative, name);
    if (::unlinkat(parent.get(), name.c_str(), 0) != 0) fail(relative);
}

void Folder::remove_all(const std::string& relative) const {
    try {
        each(relative, [&](const std::string& name, const struct stat& status) {
            const auto path = relative + "/" + name;
            if (S_ISDIR(status.st_mode)) {
                remove_all(path);
            } else {
                remove(path);
            }
            return true;
        });
        std::string name;
        const auto parent = parent_of(relative, name);
        ::unlinkat(parent.get(), name.c_str(), AT_REMOVEDIR);
    } catch (const std::system_error&) {
        // It stays.
    }
}

void Folder::each(const std::string& relative, const Visit& visit) const {
    auto fd = relative.empty() ? FileDescriptor(::openat(fd_.get(), ".", O_RDONLY | O_DIRECTORY | O_CLOEXEC))
                               : open(relative, O_RDONLY | O_DIRECTORY);
    const std::unique_ptr<DIR, CloseFolder> dir(fd ? ::fdopendir(fd.get()) : nullptr);
    if (!dir) fail(relative);
    const int folder = ::dirfd(dir.get());
    fd.release();
    for (;;) {
        errno = 0;
        const auto* entry = ::readdir(dir.get());
        if (!entry) {
            if (errno) fail(relative);
            return;
        }
        const std::string name = entry->d_name;
        if (name == "." || name == "..") continue;
        struct stat status {};
        if (::fstatat(folder, name.c_str(), &status, AT_SYMLINK_NOFOLLOW) != 0) continue;
        if (!visit(name, status)) return;
    }
}

bool Folder::empty() const {
    bool any = false;
    each("", [&](const std::string&, const struct stat&) {
        any = true;
        return false;
    });
    return !any;
}

}  // namespace undershelf
