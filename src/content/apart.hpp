#pragma once
// Contents read by `undershelf-decoder`: whatever a content makes of a decoder, it takes nothing down with
// it, and reaches nothing. The process sees no file but the socket that it is asked through; the bytes of the
// content are handed to it as it asks for them.

#include <memory>
#include <mutex>
#include <string>
#include <vector>

#include "content/reading.hpp"

namespace undershelf {

/// What a process may take for a content.
struct ApartBounds {
    std::uint64_t memory = 2ull << 30;  ///< bytes of address space
    int silence = 60;                   ///< seconds without a word, after which it is ended
    /// So many times may it ask for bytes and memory, and once more for every 256 bytes of the content.
    std::uint64_t questions = 1 << 20;
};

class DecodersApart final : public ContentReading {
  public:
    /// `program`: the decoder's file; empty for the one beside this program, or beside this library.
    explicit DecodersApart(const std::string& program = {}, ApartBounds bounds = {});
    ~DecodersApart() override;

    // A process that fails, hangs, asks for too much memory or says what cannot be leaves a check unfinished,
    // and tells nothing else. What is read with nothing but our own code is read in this process. All throw
    // Error(input) when no process can be started.
    std::optional<Check> check(Content& content, const CheckLimits& limits) override;
    Inside inside(Content& content, const Format& format) override;
    void text(Content& content, const TakeText& take) override;

  private:
    class Process;
    std::unique_ptr<Process> take();
    template <class Ask>
    bool ask(const Ask& ask_it);

    std::string program_;
    ApartBounds bounds_;
    std::mutex mutex_;
    std::vector<std::unique_ptr<Process>> idle_;
};

/// The decoder's file, beside the program that runs or beside the library that this is in; empty where it is
/// not there.
std::string decoder_beside();

}  // namespace undershelf
