#pragma once
// Checks by decoders that are trusted less, in a process of their own: whatever a content makes of one, it
// takes nothing down with it. The process sees no file but the socket that it is asked through; the bytes of
// the content are handed to it as it asks for them.

#include <memory>
#include <mutex>
#include <string>
#include <vector>

#include "content/format.hpp"

namespace undershelf {

/// What a process may take for a check.
struct ApartBounds {
    std::uint64_t memory = 2ull << 30;  ///< bytes of address space
    int silence = 60;                   ///< seconds without a word, after which it is ended
};

class DecodersApart {
  public:
    /// `program` is this program's file, which is run with `command` as its only argument and calls
    /// serve_checks() then.
    explicit DecodersApart(std::string program, ApartBounds bounds = {});
    ~DecodersApart();

    /// As check_content() without one, several at a time. A process that fails, hangs or asks for too much
    /// memory leaves the check unfinished. Throws Error when none can be started.
    Check check(Content& content, const CheckLimits& limits);

    static constexpr const char* command = "decode-apart";

  private:
    class Process;
    std::unique_ptr<Process> take();

    std::string program_;
    ApartBounds bounds_;
    std::mutex mutex_;
    std::vector<std::unique_ptr<Process>> idle_;
};

/// The other side: answers on `socket` until it is closed. Returns an exit status.
int serve_checks(int socket);

}  // namespace undershelf
