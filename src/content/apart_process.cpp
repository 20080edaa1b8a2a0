#include "content/apart_process.hpp"

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

#include "base/error.hpp"
#include "content/memory.hpp"

extern char** environ;

namespace undershelf::content {

bool MemoryOfOther::take(std::uint64_t bytes, bool wait) {
    // One that has some and waits for more might wait for another that does the same.
    if (bytes > checks_memory - held_ || !memory_keeper().take(bytes, wait && held_ == 0)) return false;
    held_ += bytes;
    return true;
}

bool MemoryOfOther::give(std::uint64_t bytes) {
    if (bytes > held_) return false;
    held_ -= bytes;
    memory_keeper().give(bytes);
    return true;
}

namespace {

/// However a question ends, nothing is kept.
class ForOneQuestion {
  public:
    explicit ForOneQuestion(MemoryOfOther& memory) : memory_(memory) {}
    ~ForOneQuestion() { memory_.give(memory_.held()); }
    ForOneQuestion(const ForOneQuestion&) = delete;
    ForOneQuestion& operator=(const ForOneQuestion&) = delete;

  private:
    MemoryOfOther& memory_;
};

[[noreturn]] void cannot_start(const std::string& program, int why) {
    throw Error(Trouble::input,
                fmt::format("{} cannot be started: {}. Contents are read by it alone. Install "
                            "the program again, with all that belongs to it.",
                            program, std::strerror(why)));
}

}  // namespace

ApartProcess::ApartProcess(const std::string& program, const ApartBounds& bounds, ApartTask task)
    : bounds_(bounds) {
    // Never one from the folder that somebody happens to work in.
    if (program.empty()) cannot_start(decoder_name, ENOENT);
    std::array<int, 2> ends{};
    if (::socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends.data()) != 0) cannot_start(program, errno);
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
    const std::array<const char*, 4> arguments{program.c_str(), memory.c_str(),
                                               task == ApartTask::drawing ? drawing_task : nullptr, nullptr};
    const int trouble = ::posix_spawn(&pid_, program.c_str(), &actions, nullptr,
                                      const_cast<char* const*>(arguments.data()), environ);
    posix_spawn_file_actions_destroy(&actions);
    if (trouble != 0) {
        pid_ = -1;
        cannot_start(program, trouble);
    }
}

ApartProcess::~ApartProcess() {
    end();
}

std::string ApartProcess::end() {
    if (pid_ < 0) return {};
    socket_.reset();
    ::kill(pid_, SIGKILL);  // changes nothing of how one ended that has ended before
    int status = 0;
    while (::waitpid(pid_, &status, 0) < 0 && errno == EINTR) {
    }
    pid_ = -1;
    if (WIFSIGNALED(status) && WTERMSIG(status) == SIGPROF) return "it takes longer than it may";
    if (WIFSIGNALED(status) && WTERMSIG(status) == SIGSYS) return "its decoder tried to do what it may not";
    return "its decoder failed on it";
}

Request ApartProcess::request(const Content& content, Question question) {
    Request out;
    out.size = content.size();
    out.question = question;
    return out;
}

void ApartProcess::send_bytes(Bytes bytes) {
    if (!send_all(socket_.get(), bytes)) throw Failed();
}

void ApartProcess::receive_bytes(MutableBytes out) {
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

std::string ApartProcess::answer(Content& content, const Request& request, const TakeText& take) {
    const ForOneQuestion its_memory(memory_);
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

void ApartProcess::serve(Content& content, const Answer& wanted) {
    if (wanted.length > most_bytes) throw Failed();
    bytes_.resize(static_cast<std::size_t>(wanted.length));
    const auto got = wanted.offset < content.size() ? content.read(wanted.offset, bytes_) : 0;
    send(Served{got});
    send_bytes(Bytes(bytes_).first(got));
}

std::string ApartProcess::text_of(std::uint64_t length, std::uint64_t most) {
    if (length > most) throw Failed();
    std::string out(static_cast<std::size_t>(length), '\0');
    receive_bytes({reinterpret_cast<std::uint8_t*>(out.data()), out.size()});
    return out;
}

ApartPool::ApartPool(const std::string& program, ApartBounds bounds, ApartTask task)
    : program_(program.empty() ? decoder_beside() : program), bounds_(bounds), task_(task) {}

std::unique_ptr<ApartProcess> ApartPool::take() {
    {
        const std::lock_guard lock(mutex_);
        if (!idle_.empty()) {
            auto out = std::move(idle_.back());
            idle_.pop_back();
            return out;
        }
    }
    return std::make_unique<ApartProcess>(program_, bounds_, task_);
}

std::string ApartPool::ask(const std::function<void(ApartProcess&)>& ask_it) {
    auto process = take();
    try {
        ask_it(*process);
    } catch (const ApartProcess::Failed&) {
        return process->end();
    }
    const std::lock_guard lock(mutex_);
    idle_.push_back(std::move(process));
    return {};
}

}  // namespace undershelf::content
