#pragma once
// What is said between the program and the process that decodes for it: both are of one version on one
// machine, so numbers are as the machine has them. What an answer says in words is JSON.

#include <sys/socket.h>

#include <cerrno>
#include <optional>
#include <string>

#include "content/drawn.hpp"
#include "content/formats.hpp"

namespace undershelf::content {

constexpr const char* decoder_name = "undershelf-decoder";

/// What a process is started for. Those that draw have more libraries, and may read the system's fonts.
enum class ApartTask : std::uint8_t { reading, drawing };
/// The argument that says so.
constexpr const char* drawing_task = "drawing";

/// The last two are for processes that draw alone.
enum class Question : std::uint8_t { check = 1, inside = 2, text = 3, outline = 4, draw = 5, page = 6 };

struct Request {
    std::uint64_t size = 0;  ///< bytes of the content
    std::uint64_t most_output = 0, most_searched = 0;
    std::uint32_t pixels = 0;  ///< of what is drawn: its longer side
    Question question{};
    std::uint8_t title = 0;  ///< of a check: a title and details are wanted as well
    PictureForm form{};      ///< of what is drawn
    char format[25] = {};    ///< of `inside`: the format's word, with zeros after it
};

enum class AnswerKind : std::uint8_t {
    wants_bytes = 1,
    result = 2,        ///< `length` bytes follow; after text none
    wants_memory = 3,  ///< answered by Served: 1 where it may have it
    gives_memory = 4,  ///< not answered
    text = 5,          ///< `length` bytes follow, of a text or of a drawn file; answered by Served: 1 when
                       ///< that is enough
};

struct Answer {
    std::uint64_t offset = 0;  ///< of the bytes it wants; of memory: 1 to wait for it
    std::uint64_t length = 0;  ///< bytes
    AnswerKind kind{};
};

struct Served {
    std::uint64_t bytes = 0;  ///< that follow; fewer than wanted where one is missing
};

constexpr std::uint64_t most_bytes = 256 << 10, most_result = 64 << 10, most_text = 1 << 20;

std::string as_text(const Check& check);
std::string as_text(const Inside& inside);
std::string as_text(const Drawn& drawn);
/// Nothing for what no check says: unknown formats and words, dates and numbers that cannot be, too long
/// texts. What would steer a terminal is taken out.
std::optional<Check> check_in(const std::string& text);
std::optional<Inside> inside_in(const std::string& text);
std::optional<Drawn> drawn_in(const std::string& text);

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
