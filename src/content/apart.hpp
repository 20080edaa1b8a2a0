#pragma once
// Contents read by `undershelf-decoder`: whatever a content makes of a decoder, it takes nothing down with
// it, and reaches nothing. The process sees no file but the socket that it is asked through; the bytes of the
// content are handed to it as it asks for them.

#include <memory>
#include <string>

#include "content/apart_bounds.hpp"
#include "content/reading.hpp"

namespace undershelf {

namespace content {
class ApartPool;
}

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
    void outline(Content& content, const TakeText& take) override;

  private:
    std::unique_ptr<content::ApartPool> decoders_;
};

}  // namespace undershelf
