#include "source/smart.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cerrno>
#include <csignal>
#include <cstring>
#include <nlohmann/json.hpp>

#include "base/file_descriptor.hpp"
#include "base/json_text.hpp"
#include "base/text.hpp"

extern char** environ;

namespace undershelf {

namespace {

using nlohmann::json;
using Clock = std::chrono::steady_clock;

/// What a program prints; more is not from one that tells of a drive.
constexpr std::size_t most_output = 4 << 20;
/// Attributes of ATA drives, by the numbers that nearly all makers use.
constexpr int moved = 5, waiting = 197, unreadable = 198;
constexpr std::int64_t hot = 55;

struct Output {
    std::string text, trouble;
};

std::string read_until(int fd, Clock::time_point end, bool& late) {
    std::string out;
    char room[4096];
    while (out.size() < most_output) {
        const auto left = std::chrono::duration_cast<std::chrono::milliseconds>(end - Clock::now()).count();
        pollfd wait{fd, POLLIN, 0};
        const int ready = left > 0 ? ::poll(&wait, 1, static_cast<int>(left)) : 0;
        if (ready < 0 && errno == EINTR) continue;
        late = ready <= 0;
        if (late) break;
        const auto got = ::read(fd, room, sizeof room);
        if (got <= 0) break;
        out.append(room, static_cast<std::size_t>(got));
    }
    return out;
}

/// Runs a program of the search path, and ends it when it takes too long.
Output output_of(std::vector<std::string> words, std::chrono::milliseconds most) {
    int ends[2];
    if (::pipe2(ends, O_CLOEXEC) != 0) return {{}, std::strerror(errno)};
    const FileDescriptor from(ends[0]);
    FileDescriptor to(ends[1]);
    posix_spawn_file_actions_t actions;
    ::posix_spawn_file_actions_init(&actions);
    ::posix_spawn_file_actions_adddup2(&actions, to.get(), STDOUT_FILENO);
    ::posix_spawn_file_actions_addopen(&actions, STDIN_FILENO, "/dev/null", O_RDONLY, 0);
    ::posix_spawn_file_actions_addopen(&actions, STDERR_FILENO, "/dev/null", O_RDONLY,
                                       0);  // what it says there fails
    std::vector<char*> argv;
    for (auto& word : words) argv.push_back(word.data());
    argv.push_back(nullptr);
    pid_t child = 0;
    const int failed = ::posix_spawnp(&child, argv[0], &actions, nullptr, argv.data(), environ);
    ::posix_spawn_file_actions_destroy(&actions);
    if (failed)
        return {{},
                failed == ENOENT ? "smartmontools is not installed: sudo apt install smartmontools"
                                 : std::strerror(failed)};
    to.reset();
    Output out;
    bool late = false;
    out.text = read_until(from.get(), Clock::now() + most, late);
    if (late)
        out.trouble = fmt::format("it did not answer within {} s; a drive that does not answer is failing",
                                  std::chrono::duration_cast<std::chrono::seconds>(most).count());
    // A status of its own says what is wrong with the drive; its JSON says so as well. One that hangs in a
    // call to the drive cannot be ended: it is not waited for.
    ::kill(child, SIGKILL);
    ::waitpid(child, nullptr, WNOHANG);
    return out;
}

template <class Number>
void take(std::optional<Number>& to, const json& from, const char* place) {
    const json::json_pointer at(place);
    if (!from.contains(at)) return;
    const auto& value = from.at(at);
    if (value.is_number_integer() && (std::is_signed_v<Number> || value.get<std::int64_t>() >= 0))
        to = value.get<Number>();
}

}  // namespace

std::optional<SmartHealth> read_smart(const std::string& text) {
    const auto all = json_in(text);
    if (!all.is_object()) return std::nullopt;
    SmartHealth out;
    if (const json::json_pointer at("/smart_status/passed"); all.contains(at) && all.at(at).is_boolean())
        out.passed = all.at(at).get<bool>();
    const json::json_pointer table("/ata_smart_attributes/table");
    if (all.contains(table) && all.at(table).is_array()) {
        for (const auto& row : all.at(table)) {
            std::optional<std::int64_t> id;
            take(id, row, "/id");
            auto* to = !id                 ? nullptr
                       : *id == moved      ? &out.moved_sectors
                       : *id == waiting    ? &out.waiting_sectors
                       : *id == unreadable ? &out.unreadable_sectors
                                           : nullptr;
            if (to) take(*to, row, "/raw/value");
        }
    }
    take(out.media_errors, all, "/nvme_smart_health_information_log/media_errors");
    take(out.worn_percent, all, "/nvme_smart_health_information_log/percentage_used");
    take(out.celsius, all, "/temperature/current");
    take(out.hours, all, "/power_on_time/hours");
    const bool anything =
        out.passed || out.moved_sectors || out.waiting_sectors || out.media_errors || out.hours;
    return anything ? std::optional(out) : std::nullopt;
}

SmartAnswer ask_smart(const std::string& path, std::chrono::milliseconds most) {
    const auto output = output_of({"smartctl", "--json", "--health", "--attributes", path}, most);
    if (!output.trouble.empty()) return {std::nullopt, output.trouble};
    auto health = read_smart(output.text);
    return {health, health ? "" : "the drive, or what it is attached by, does not tell"};
}

std::vector<std::string> in_words(const SmartHealth& h) {
    std::vector<std::string> out;
    const auto add = [&](const std::optional<std::uint64_t>& n, const char* one, const char* more,
                         const char* then) {
        if (n && *n)
            out.push_back(fmt::format("It {}; {}.",
                                      fmt::format(fmt::runtime(*n == 1 ? one : more), grouped(*n)), then));
    };
    if (h.passed == false)
        out.emplace_back("It says of itself that it is failing; copy it before anything else.");
    constexpr const char* copy = "copy it first";
    add(h.waiting_sectors, "has {} sector that it could not read", "has {} sectors that it could not read",
        copy);
    add(h.unreadable_sectors, "could not read {} sector in a test of its own",
        "could not read {} sectors in a test of its own", copy);
    add(h.moved_sectors, "has moved {} sector", "has moved {} sectors", copy);
    add(h.media_errors, "could not read a content as it was {} time",
        "could not read a content as it was {} times", copy);
    if (h.worn_percent && *h.worn_percent >= 90)
        out.push_back(fmt::format("It is worn: {} % of what its maker says it endures.", *h.worn_percent));
    if (h.celsius && *h.celsius >= hot)
        out.push_back(fmt::format("It is hot, {} °C; let it cool down before it is copied.", *h.celsius));
    if (out.empty() && h.passed)
        out.push_back(fmt::format("It says of itself that it is well{}.",
                                  h.hours ? fmt::format(", after {} hours", grouped(*h.hours)) : ""));
    return out;
}

}  // namespace undershelf
