#pragma once
// What is said between the program and the process that decodes for it: both are the same program, so numbers
// are as the machine has them.

#include <sys/socket.h>

#include <cerrno>

#include "base/bytes.hpp"

namespace undershelf::content {

struct Request {
    std::uint64_t size = 0;  ///< bytes of the content
    std::uint64_t most_output = 0, most_searched = 0;
};

enum class AnswerKind : std::uint8_t {
    wants_bytes = 1,
    result = 2,
    wants_memory = 3,  ///< answered by Served: 1 where it may have it
    gives_memory = 4,  ///< not answered
};

struct Answer {
    std::uint64_t offset =
        0;  ///< of the bytes it wants; of memory: 1 to wait for it; up to where the content holds
    std::uint64_t length = 0;     ///< bytes it wants, of the content at most most_bytes
    std::uint64_t proven_to = 0;  ///< these and those below: of a result
    AnswerKind kind{};
    std::uint8_t strength = 0, complete = 0, finished = 0, cut = 0, odd_head = 0, loose_end = 0;
    std::uint8_t format_length = 0;  ///< bytes that follow: the format's word,
    std::uint16_t why_length = 0;    ///< then what is wrong
};

struct Served {
    std::uint64_t bytes = 0;  ///< that follow; fewer than wanted where one is missing
};

constexpr std::uint64_t most_bytes = 256 << 10;
constexpr std::size_t most_word = 32, most_sentence = 1024;

inline bool send_all(int socket, Bytes bytes) {
    while (!bytes.empty()) {
        const auto sent = ::send(socket, bytes.data(), bytes.size(), MSG_NOSIGNAL);
        if (sent < 0 && errno == EINTR) continue;
        if (sent <= 0) return false;
        bytes = bytes.subspan(static_cast<std::size_t>(sent));
    }
    return true;
}

}  // namespace undershelf::content
