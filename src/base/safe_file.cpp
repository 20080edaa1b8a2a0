#include "base/safe_file.hpp"

#include <fcntl.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <filesystem>
#include <system_error>

#include "base/file_descriptor.hpp"

namespace undershelf {

namespace {
[[noreturn]] void fail(const std::string& path) {
    throw std::system_error(errno, std::generic_category(), path);
}
}  // namespace

void replace_file(const std::string& path, std::string_view text) {
    const auto temporary = path + "~";
    {
        const FileDescriptor fd(::open(temporary.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644));
        if (!fd) fail(temporary);
        while (!text.empty()) {
            const auto n = ::write(fd.get(), text.data(), text.size());
            if (n < 0 && errno == EINTR) continue;
            if (n < 0) fail(temporary);
            text.remove_prefix(static_cast<std::size_t>(n));
        }
        if (::fdatasync(fd.get()) != 0) fail(temporary);
    }
    if (std::rename(temporary.c_str(), path.c_str()) != 0) fail(path);
    // The name itself is in the folder. Not every file system has folders that can be synced.
    const auto folder = std::filesystem::absolute(path).parent_path();
    const FileDescriptor dir(::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
    if (dir) ::fsync(dir.get());
}

}  // namespace undershelf
