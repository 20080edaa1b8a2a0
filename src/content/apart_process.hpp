#pragma once
// One process of `undershelf-decoder`, and several that are asked in turn: what is sent there, what it may
// ask for meanwhile, and how it ends when it fails.

#include <sys/types.h>

#include <functional>
#include <memory>
#include <mutex>
#include <string>
#include <vector>

#include "base/file_descriptor.hpp"
#include "content/apart_bounds.hpp"
#include "content/apart_messages.hpp"

namespace undershelf::content {

/// Memory that a process has for what it was asked: it is told what it may have, and held to what it was
/// given.
class MemoryOfOther {
  public:
    bool take(std::uint64_t bytes, bool wait);
    bool give(std::uint64_t bytes);
    std::uint64_t held() const { return held_; }

  private:
    std::uint64_t held_ = 0;
};

class ApartProcess {
  public:
    /// It says nothing for longer than its time, or what cannot be, or it is there no more.
    struct Failed {};

    /// `program` is the decoder's file, empty for none that was found. Throws Error(input) when it cannot be
    /// started.
    ApartProcess(const std::string& program, const ApartBounds& bounds, ApartTask task);
    ~ApartProcess();
    ApartProcess(const ApartProcess&) = delete;
    ApartProcess& operator=(const ApartProcess&) = delete;

    /// A request about a content.
    static Request request(const Content& content, Question question);
    /// Sends it, and serves the process until it has its answer, which is given back. `take` gets what comes
    /// before that, piece by piece; without it nothing may come. Throws Failed.
    std::string answer(Content& content, const Request& request, const TakeText& take);
    /// Ends it. What a process that was ended otherwise before was ended by, as the end of a sentence.
    std::string end();

  private:
    void send_bytes(Bytes bytes);
    template <class Message>
    void send(const Message& message) {
        send_bytes({reinterpret_cast<const std::uint8_t*>(&message), sizeof message});
    }
    void receive_bytes(MutableBytes out);
    template <class Message>
    Message receive() {
        Message out;
        receive_bytes({reinterpret_cast<std::uint8_t*>(&out), sizeof out});
        return out;
    }
    void serve(Content& content, const Answer& wanted);
    std::string text_of(std::uint64_t length, std::uint64_t most);

    MemoryOfOther memory_;
    const ApartBounds bounds_;
    pid_t pid_ = -1;
    FileDescriptor socket_;
    ByteVector bytes_;
};

/// As many as are asked at a time. They stay, but for those that failed.
class ApartPool {
  public:
    ApartPool(const std::string& program, ApartBounds bounds, ApartTask task);
    /// Nothing, or why the process failed: the end of a sentence. Throws what `ask_it` throws.
    std::string ask(const std::function<void(ApartProcess&)>& ask_it);

  private:
    std::unique_ptr<ApartProcess> take();

    std::string program_;
    ApartBounds bounds_;
    ApartTask task_;
    std::mutex mutex_;
    std::vector<std::unique_ptr<ApartProcess>> idle_;
};

}  // namespace undershelf::content
