#pragma once
// The text between tags.

#include <string>

#include "content/format.hpp"
#include "content/words.hpp"

namespace undershelf::content {

/// Plain text in the encoding that it begins in; pages and other markup without tags, scripts and styles.
void plain_words(Content& content, const TakeText& take);
void markup_words(Content& content, const TakeText& take);

/// Takes tags out of markup that comes in parts, of any encoding that has ASCII within.
class TagStripper {
  public:
    explicit TagStripper(Pieces& out) : out_(out) {}
    void take(std::string_view part);

  private:
    void close_tag();

    Pieces& out_;
    enum class In : std::uint8_t { text, tag, entity } in_ = In::text;
    std::string held_;    ///< of the tag, or of the entity
    std::string hidden_;  ///< the element whose inside is not shown: script, style
};

}  // namespace undershelf::content
