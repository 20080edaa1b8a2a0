#include "content/apart.hpp"

#include <dlfcn.h>
#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <signal.h>
#include <spawn.h>
#include <sys/socket.h>
#include <sys/time.h>
#include <sys/wait.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <chrono>
#include <cstring>
#include <filesystem>

#include "base/error.hpp"
#include "base/file_descriptor.hpp"
#include "content/apart_messages.hpp"
#include "content/formats.hpp"
#include "content/memory.hpp"

extern char** environ;

namespace undershelf {

using namespace content;

namespace {

constexpr const char* decoder_name = "undershelf-decoder";

/// What a process says for longer than its time, or not at all, ends it.
struct Failed {};

/// Memory that a process has for its check: it is told what it may have, and held to what it was given.
class MemoryOfOther {
  public:
    bool take(std::uint64_t bytes, bool wait) {
        // One that has some and waits for more might wait for another that does the same.
        if (bytes > checks_memory - held_ || !memory_keeper().take(bytes, wait && held_ == 0)) return false;
        held_ += bytes;
        return true;
    }
    bool give(std::uint64_t bytes) {
        if (bytes > held_) return false;
        held_ -= bytes;
        memory_keeper().give(bytes);
        return true;
    }
    /// However a check ends, nothing is kept.
    class ForOneCheck {
      public:
        explicit ForOneCheck(MemoryOfOther& memory) : memory_(memory) {}
        ~ForOneCheck() { memory_.give(memory_.held_); }
        ForOneCheck(const ForOneCheck&) = delete;
        ForOneCheck& operator=(const ForOneCheck&) = delete;

      private:
        MemoryOfOther& memory_;
    };

  private:
    std::uint64_t held_ = 0;
};

}  // namespace

class DecodersApart::Process {
  public:
    Process(const std::string& program, const ApartBounds& bounds) : bounds_(bounds) {
        // Never one from the folder that somebody happens to work in.
        if (program.empty()) cannot_start(decoder_name, ENOENT);
        std::array<int, 2> ends{};
        if (::socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends.data()) != 0)
            cannot_start(program, errno);
        socket_.reset(ends[0]);
        // One that does not take what it asked for is silent as well.
        const timeval patience{bounds.silence, 0};
        ::setsockopt(socket_.get(), SOL_SOCKET, SO_SNDTIMEO, &patience, sizeof patience);
        const FileDescriptor other(ends[1]);
        posix_spawn_file_actions_t actions;
        posix_spawn_file_actions_init(&actions);
        posix_spawn_file_actions_adddup2(&actions, other.get(), STDIN_FILENO);
        posix_spawn_file_actions_addopen(&actions, STDOUT_FILENO, "/dev/null", O_WRONLY, 0);
        posix_spawn_file_actions_addopen(&actions, STDERR_FILENO, "/dev/null", O_WRONLY, 0);
        const auto memory = std::to_string(bounds.memory);
        const std::array<const char*, 3> arguments{program.c_str(), memory.c_str(), nullptr};
        const int trouble = ::posix_spawn(&pid_, program.c_str(), &actions, nullptr,
                                          const_cast<char* const*>(arguments.data()), environ);
        posix_spawn_file_actions_destroy(&actions);
        if (trouble != 0) cannot_start(program, trouble);
    }
    ~Process() {
        socket_.reset();
        ::kill(pid_, SIGKILL);
        while (::waitpid(pid_, nullptr, 0) < 0 && errno == EINTR) {
        }
    }
    Process(const Process&) = delete;
    Process& operator=(const Process&) = delete;

    std::optional<Check> check(Content& content, const CheckLimits& limits) {
        Request request = of(content, Question::check);
        request.most_output = limits.most_output;
        request.most_searched = limits.most_searched;
        request.title = limits.title;
        auto out = check_in(answer(content, request, {}));
        if (!out || out->holds_to > content.size() || out->proven_to > content.size()) throw Failed();
        return out;
    }

    Inside inside(Content& content, const Format& format) {
        Request request = of(content, Question::inside);
        format.word.copy(request.format, sizeof request.format - 1);
        auto out = inside_in(answer(content, request, {}));
        if (!out) throw Failed();
        return std::move(*out);
    }

    void text(Content& content, const TakeText& take) { answer(content, of(content, Question::text), take); }

  private:
    [[noreturn]] static void cannot_start(const std::string& program, int why) {
        throw Error(Trouble::input,
                    fmt::format("{} cannot be started: {}. Contents are read by it alone. Install "
                                "the program again, with all that belongs to it.",
                                program, std::strerror(why)));
    }

    template <class Message>
    void send(const Message& message) {
        send_bytes({reinterpret_cast<const std::uint8_t*>(&message), sizeof message});
    }
    void send_bytes(Bytes bytes) {
        if (!send_all(socket_.get(), bytes)) throw Failed();
    }
    template <class Message>
    Message receive() {
        Message out;
        receive_bytes({reinterpret_cast<std::uint8_t*>(&out), sizeof out});
        return out;
    }
    void receive_bytes(MutableBytes out) {
        using Clock = std::chrono::steady_clock;
        const auto ends = Clock::now() + std::chrono::seconds(bounds_.silence);
        while (!out.empty()) {
            pollfd waiting{socket_.get(), POLLIN, 0};
            const auto left = std::chrono::ceil<std::chrono::milliseconds>(ends - Clock::now()).count();
            const int ready = ::poll(&waiting, 1, static_cast<int>(std::max<std::int64_t>(left, 0)));
            if (ready < 0 && errno == EINTR) continue;
            if (ready <= 0) throw Failed();
            const auto got = ::recv(socket_.get(), out.data(), out.size(), 0);
            if (got < 0 && errno == EINTR) continue;
            if (got <= 0) throw Failed();
            out = out.subspan(static_cast<std::size_t>(got));
        }
    }

    static Request of(const Content& content, Question question) {
        Request out;
        out.size = content.size();
        out.question = question;
        return out;
    }

    /// Serves it until it has its answer, which is given back.
    std::string answer(Content& content, const Request& request, const TakeText& take) {
        const MemoryOfOther::ForOneCheck its_memory(memory_);
        send(request);
        auto questions = bounds_.questions + content.size() / 256;
        for (bool enough = false;;) {
            if (questions-- == 0) throw Failed();
            const auto said = receive<Answer>();
            switch (said.kind) {
                case AnswerKind::result:
                    return text_of(said.length, most_result);
                case AnswerKind::wants_memory:
                    send(Served{memory_.take(said.length, said.offset != 0)});
                    break;
                case AnswerKind::gives_memory:
                    if (!memory_.give(said.length)) throw Failed();
                    break;
                case AnswerKind::text:
                    if (enough || !take) throw Failed();
                    enough = take(text_of(said.length, most_text));
                    send(Served{enough});
                    break;
                case AnswerKind::wants_bytes:
                    serve(content, said);
                    break;
                default:
                    throw Failed();
            }
        }
    }

    void serve(Content& content, const Answer& wanted) {
        if (wanted.length > most_bytes) throw Failed();
        bytes_.resize(static_cast<std::size_t>(wanted.length));
        const auto got = wanted.offset < content.size() ? content.read(wanted.offset, bytes_) : 0;
        send(Served{got});
        send_bytes(Bytes(bytes_).first(got));
    }

    std::string text_of(std::uint64_t length, std::uint64_t most) {
        if (length > most) throw Failed();
        std::string out(static_cast<std::size_t>(length), '\0');
        receive_bytes({reinterpret_cast<std::uint8_t*>(out.data()), out.size()});
        return out;
    }

    MemoryOfOther memory_;
    const ApartBounds bounds_;
    pid_t pid_ = -1;
    FileDescriptor socket_;
    ByteVector bytes_;
};

namespace {
/// The decoder in the folder of a file; empty where it is not there.
std::string beside(const std::filesystem::path& file) {
    std::error_code ec;
    const auto there = file.parent_path() / decoder_name;
    return !file.empty() && std::filesystem::exists(there, ec) ? there.string() : std::string();
}
}  // namespace

std::string decoder_beside() {
    std::error_code ec;
    if (auto found = beside(std::filesystem::read_symlink("/proc/self/exe", ec)); !found.empty())
        return found;
    Dl_info library{};
    // Any address of this library tells where it is.
    if (::dladdr(reinterpret_cast<const void*>(&decoder_beside), &library) == 0 || !library.dli_fname)
        return {};
    return beside(std::filesystem::absolute(library.dli_fname, ec));
}

DecodersApart::DecodersApart(const std::string& program, ApartBounds bounds)
    : program_(program.empty() ? decoder_beside() : program), bounds_(bounds) {}
DecodersApart::~DecodersApart() = default;

std::unique_ptr<DecodersApart::Process> DecodersApart::take() {
    {
        const std::lock_guard lock(mutex_);
        if (!idle_.empty()) {
            auto out = std::move(idle_.back());
            idle_.pop_back();
            return out;
        }
    }
    return std::make_unique<Process>(program_, bounds_);
}

/// False where the process has failed, which is not asked again.
template <class Ask>
bool DecodersApart::ask(const Ask& ask_it) {
    auto process = take();
    try {
        ask_it(*process);
    } catch (const Failed&) {
        return false;
    }
    const std::lock_guard lock(mutex_);
    idle_.push_back(std::move(process));
    return true;
}

std::optional<Check> DecodersApart::check(Content& content, const CheckLimits& limits) {
    Cursor start(content);
    const auto first = start.peek(4096);
    const auto* reader = reader_for(first);
    if (!reader) return std::nullopt;
    if (reader->all_our_own()) return check_content(content, limits);
    std::optional<Check> out;
    if (ask([&](Process& process) { out = process.check(content, limits); })) return out;
    out.emplace();
    out->format = reader->recognise(first).format;
    out->finished = false;
    out->fails(0, "its decoder failed on it");
    return out;
}

Inside DecodersApart::inside(Content& content, const Format& format) {
    Cursor start(content);
    const auto* reader = reader_for(start.peek(4096));
    if (!reader || reader->all_our_own()) return content_inside(content, format);
    Inside out;
    if (!ask([&](Process& process) { out = process.inside(content, format); })) out = {};
    if (out.extension.empty()) out.extension = usual_extension(format);
    return out;
}

void DecodersApart::text(Content& content, const TakeText& take) {
    Cursor start(content);
    const auto* reader = reader_for(start.peek(4096));
    if (!reader || reader->all_our_own()) return content_text(content, take);
    ask([&](Process& process) { process.text(content, take); });
}

}  // namespace undershelf
