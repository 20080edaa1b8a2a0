#pragma once
// What is asked of contents as a whole, and by whom it is answered: in this process, or in one of its own.

#include "content/formats.hpp"

namespace undershelf {

class ContentReading {
  public:
    virtual ~ContentReading() = default;
    /// As check_content(), several at a time.
    virtual std::optional<Check> check(Content& content, const CheckLimits& limits) = 0;
    /// As content_inside().
    virtual Inside inside(Content& content, const Format& format) = 0;
    /// As content_text().
    virtual void text(Content& content, const TakeText& take) = 0;
    /// As content_outline().
    virtual void outline(Content& content, const TakeText& take) = 0;
};

/// In this process: for the decoder itself, and for tests and fuzzers of readers.
class ReadHere final : public ContentReading {
  public:
    std::optional<Check> check(Content& content, const CheckLimits& limits) override {
        return check_content(content, limits);
    }
    Inside inside(Content& content, const Format& format) override { return content_inside(content, format); }
    void text(Content& content, const TakeText& take) override { content_text(content, take); }
    void outline(Content& content, const TakeText& take) override { content_outline(content, take); }
};

}  // namespace undershelf
