#include "shelf/holder.hpp"

#include <fmt/format.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>
#include <unistd.h>

#include <algorithm>
#include <fstream>
#include <sstream>
#include <vector>

namespace undershelf {

namespace {

/// As /proc/locks names files: `08:01:4711`, the device in hexadecimal.
std::string lock_name(const std::string& path) {
    struct stat s {};
    if (::stat(path.c_str(), &s) != 0) return {};
    return fmt::format("{:02x}:{:02x}:{}", major(s.st_dev), minor(s.st_dev), s.st_ino);
}

std::string text_of(const std::string& file) {
    std::ifstream in(file, std::ios::binary);
    std::ostringstream out;
    out << in.rdbuf();
    return out.str();
}

/// The command line, with blanks between its words.
std::string command_of(const std::string& proc, pid_t process) {
    auto out = text_of(fmt::format("{}/{}/cmdline", proc, process));
    while (!out.empty() && out.back() == '\0') out.pop_back();
    std::replace(out.begin(), out.end(), '\0', ' ');
    constexpr std::size_t most = 200;
    if (out.size() > most) out.resize(most);
    return out;
}

/// Is it stopped in place, as after Ctrl-Z? proc(5), `stat`: the state is after the name in parentheses.
bool is_stopped(const std::string& proc, pid_t process) {
    const auto stat = text_of(fmt::format("{}/{}/stat", proc, process));
    const auto name_end = stat.rfind(')');
    return name_end != stat.npos && name_end + 2 < stat.size() &&
           (stat[name_end + 2] == 'T' || stat[name_end + 2] == 't');
}

}  // namespace

std::string holder_of(const std::string& path, const std::string& proc) {
    std::vector<std::string> names;
    for (const auto* beside : {"", "-wal", "-shm", "-journal"}) {
        if (auto name = lock_name(path + beside); !name.empty()) names.push_back(std::move(name));
    }
    std::ifstream locks(proc + "/locks");
    for (std::string line; std::getline(locks, line);) {
        std::istringstream in(line);
        std::string number, kind, mode, access, file;
        pid_t process = 0;
        // Those that wait for one have an arrow in the second place.
        if (!(in >> number >> kind) || kind == "->" || !(in >> mode >> access >> process >> file)) continue;
        if (process <= 0 || process == ::getpid()) continue;
        if (std::find(names.begin(), names.end(), file) == names.end()) continue;
        const auto command = command_of(proc, process);
        if (is_stopped(proc, process))
            return fmt::format("Process {0} ({1}) has it, and is stopped. Let it go on: kill -CONT {0}",
                               process, command);
        return fmt::format("Process {} ({}) has it.", process, command);
    }
    return {};
}

}  // namespace undershelf
