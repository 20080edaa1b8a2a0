#include "content/apart.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <signal.h>
#include <spawn.h>
#include <sys/socket.h>
#include <sys/wait.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstring>

#include "base/error.hpp"
#include "base/file_descriptor.hpp"
#include "base/printable.hpp"
#include "content/apart_messages.hpp"
#include "content/formats.hpp"
#include "content/memory.hpp"

extern char** environ;

namespace undershelf {

using namespace content;

namespace {

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
    Process(const std::string& program, const ApartBounds& bounds) : silence_(bounds.silence) {
        std::array<int, 2> ends{};
        if (::socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends.data()) != 0) cannot_start(errno);
        socket_.reset(ends[0]);
        const FileDescriptor other(ends[1]);
        posix_spawn_file_actions_t actions;
        posix_spawn_file_actions_init(&actions);
        posix_spawn_file_actions_adddup2(&actions, other.get(), STDIN_FILENO);
        posix_spawn_file_actions_addopen(&actions, STDOUT_FILENO, "/dev/null", O_WRONLY, 0);
        posix_spawn_file_actions_addopen(&actions, STDERR_FILENO, "/dev/null", O_WRONLY, 0);
        const auto memory = std::to_string(bounds.memory);
        const std::array<const char*, 4> arguments{program.c_str(), command, memory.c_str(), nullptr};
        const int trouble = ::posix_spawn(&pid_, program.c_str(), &actions, nullptr,
                                          const_cast<char* const*>(arguments.data()), environ);
        posix_spawn_file_actions_destroy(&actions);
        if (trouble != 0) cannot_start(trouble);
    }
    ~Process() {
        socket_.reset();
        ::kill(pid_, SIGKILL);
        while (::waitpid(pid_, nullptr, 0) < 0 && errno == EINTR) {
        }
    }
    Process(const Process&) = delete;
    Process& operator=(const Process&) = delete;

    Check check(Content& content, const CheckLimits& limits) {
        const MemoryOfOther::ForOneCheck its_memory(memory_);
        send(Request{content.size(), limits.most_output, limits.most_searched});
        for (;;) {
            const auto said = receive<Answer>();
            if (said.kind == AnswerKind::result) return read_result(said);
            if (said.kind == AnswerKind::wants_memory) {
                send(Served{memory_.take(said.length, said.offset != 0)});
                continue;
            }
            if (said.kind == AnswerKind::gives_memory) {
                if (!memory_.give(said.length)) throw Failed();
                continue;
            }
            if (said.kind != AnswerKind::wants_bytes || said.length > most_bytes) throw Failed();
            bytes_.resize(static_cast<std::size_t>(said.length));
            const auto got = said.offset < content.size() ? content.read(said.offset, bytes_) : 0;
            send(Served{got});
            send_bytes(Bytes(bytes_).first(got));
        }
    }

  private:
    [[noreturn]] static void cannot_start(int why) {
        throw Error(Trouble::input,
                    fmt::format("The process for decoders cannot be started: {}.", std::strerror(why)));
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
        while (!out.empty()) {
            pollfd waiting{socket_.get(), POLLIN, 0};
            const int ready = ::poll(&waiting, 1, silence_ * 1000);
            if (ready < 0 && errno == EINTR) continue;
            if (ready <= 0) throw Failed();
            const auto got = ::recv(socket_.get(), out.data(), out.size(), 0);
            if (got < 0 && errno == EINTR) continue;
            if (got <= 0) throw Failed();
            out = out.subspan(static_cast<std::size_t>(got));
        }
    }

    /// Nothing that it says is believed to be well formed.
    Check read_result(const Answer& said) {
        if (said.format_length > most_word || said.why_length > most_sentence ||
            said.strength > static_cast<std::uint8_t>(Strength::strong))
            throw Failed();
        std::string word(said.format_length, '\0'), why(said.why_length, '\0');
        receive_bytes({reinterpret_cast<std::uint8_t*>(word.data()), word.size()});
        receive_bytes({reinterpret_cast<std::uint8_t*>(why.data()), why.size()});
        const auto* format = format_named(word);
        if (!format) throw Failed();
        Check out;
        out.format = format->word;
        out.strength = static_cast<Strength>(said.strength);
        out.complete = said.complete != 0;
        out.finished = said.finished != 0;
        out.cut = said.cut != 0;
        out.odd_head = said.odd_head != 0;
        out.loose_end = said.loose_end != 0;
        out.holds_to = said.offset;
        out.proven_to = said.proven_to;
        out.why = without_controls(why);
        return out;
    }

    MemoryOfOther memory_;
    int silence_;
    pid_t pid_ = -1;
    FileDescriptor socket_;
    ByteVector bytes_;
};

DecodersApart::DecodersApart(std::string program, ApartBounds bounds)
    : program_(std::move(program)), bounds_(bounds) {}
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

Check DecodersApart::check(Content& content, const CheckLimits& limits) {
    auto process = take();
    try {
        auto out = process->check(content, limits);
        const std::lock_guard lock(mutex_);
        idle_.push_back(std::move(process));
        return out;
    } catch (const Failed&) {
        Cursor start(content);
        const auto* format = format_of_start(start.peek(4096));
        Check out;
        out.format = format ? format->word : std::string_view();
        out.finished = false;
        return out.fails(0, "its decoder failed on it");
    }
}

}  // namespace undershelf
