#pragma once
// A folder below which things are opened by their relative paths, without following any link and without
// leaving it, whatever somebody has put there.

#include <sys/stat.h>

#include <functional>
#include <optional>
#include <string>

#include "base/file_descriptor.hpp"
#include "writing/source_guard.hpp"

namespace undershelf {

/// Relative, of names alone: no empty ones, no `.` and `..`.
bool stays_below(const std::string& relative);

/// How to open something below a folder: in one step by the kernel (openat2), or name by name where it
/// cannot.
enum class Beneath : std::uint8_t { at_once, by_steps };
/// `flags` as of open(2); links are never followed. `one_mount`: nor is another file system entered. -1 with
/// errno: ELOOP for a link, EXDEV for another file system, EINVAL for a path that does not stay below.
FileDescriptor open_beneath(int folder, const std::string& relative, int flags, mode_t mode, bool one_mount,
                            Beneath way);

class Folder {
  public:
    /// For writing: makes the folder and those above it where they are missing. `path` itself may lead
    /// through links. Throws Error(refused) when that could change the source, and std::system_error.
    Folder(const SourceGuard& guard, const std::string& path);
    /// For reading. Throws std::system_error.
    explicit Folder(const std::string& path);

    const std::string& path() const { return path_; }
    int fd() const { return fd_.get(); }
    bool empty() const;

    // All of these throw std::system_error with the relative path; `relative` may be empty for the folder.

    FileDescriptor open(const std::string& relative, int flags, mode_t mode = 0644) const;
    /// The same, without a descriptor where nothing is there.
    std::optional<FileDescriptor> open_existing(const std::string& relative, int flags) const;
    /// Of the thing itself, a link included; nothing where nothing is there.
    std::optional<struct stat> status(const std::string& relative) const;
    bool is_file(const std::string& relative) const;
    void make_folders(const std::string& relative) const;
    void rename(const std::string& from, const std::string& to) const;
    /// EEXIST where `to` is there.
    void rename_without_replacing(const std::string& from, const std::string& to) const;
    /// A symbolic link that says `target`. EEXIST where something is there.
    void make_link(const std::string& target, const std::string& relative) const;
    /// What a symbolic link says; nothing for what is none.
    std::optional<std::string> link_target(const std::string& relative) const;
    void remove(const std::string& relative) const;
    /// A folder with all that is in it; what cannot be removed is left.
    void remove_all(const std::string& relative) const;
    /// The names in a folder, in no order, with what they are (as of lstat). Ends when `visit` says false.
    using Visit = std::function<bool(const std::string& name, const struct stat& status)>;
    void each(const std::string& relative, const Visit& visit) const;

  private:
    FileDescriptor parent_of(const std::string& relative, std::string& name) const;

    std::string path_;
    FileDescriptor fd_;
    bool one_mount_ = false;
};

}  // namespace undershelf
