#pragma once
// The text that stands in contents, for those who look for words in it. Given out as UTF-8, piece by piece,
// words never cut between two pieces of the same paragraph; what structures it becomes spaces and line ends.

#include <string>
#include <vector>

#include "content/format.hpp"

namespace undershelf::content {

/// Plain text in the encoding that it begins in; pages and other markup without tags, scripts and styles.
void plain_words(Content& content, const TakeText& take);
void markup_words(Content& content, const TakeText& take);
/// Without fonts, styles and pictures.
void rtf_words(Content& content, const TakeText& take);
/// Heads and texts of one message or of a folder of them; quoted-printable and base64 are undone where a part
/// is text.
void mail_words(Content& content, const TakeText& take);
/// Of office documents and books: the members that hold text. Of other archives: their texts.
void zip_words(Content& content, const TakeText& take);
/// [MS-DOC] 2.4.1, [MS-XLS] 2.4.265, [MS-PPT] 2.9.42 and 2.9.43.
void ole_words(Content& content, const TakeText& take);
/// Strings that pages show, as far as their fonts say which characters they are.
void pdf_words(Content& content, const TakeText& take);

/// Gives text on in pieces that end between words. `take` says when it has enough; then nothing more comes.
class Pieces {
  public:
    explicit Pieces(const TakeText& take) : take_(take) {}
    void add(std::string_view text);
    /// Behind the last of it.
    void flush();
    bool enough() const { return enough_; }

  private:
    const TakeText& take_;
    std::string text_;
    bool enough_ = false;
};

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

namespace undershelf {

/// Words that all have to stand somewhere in a text. Case and accents do not count.
class WordSearch {
  public:
    explicit WordSearch(std::string_view words);
    /// How many different words there are.
    std::size_t size() const { return words_.size(); }

    /// One text being looked through.
    class Text {
      public:
        explicit Text(const WordSearch& search) : search_(search), found_(search.words_.size()) {}
        /// Pieces of the text that end between words. True once all words were met.
        bool take(std::string_view piece);
        bool all_found() const { return missing_none_; }

      private:
        const WordSearch& search_;
        std::vector<bool> found_;
        bool missing_none_ = false;
    };

  private:
    std::vector<std::string> words_;
};

}  // namespace undershelf
