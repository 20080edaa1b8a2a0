#pragma once
// The text that is in contents, for those who look for words in it. Given out as UTF-8, piece by piece,
// words never cut between two pieces of the same paragraph; what structures it becomes spaces and line ends.

#include <string>
#include <vector>

#include "content/format.hpp"

namespace undershelf::content {

/// Gives text on in pieces that end between words. `take` says when it has enough; then nothing more comes.
class Pieces {
  public:
    explicit Pieces(const TakeText& take) : take_(take) {}
    void add(std::string_view text);
    /// After the last of it.
    void flush();
    bool enough() const { return enough_; }

  private:
    const TakeText& take_;
    std::string text_;
    bool enough_ = false;
};

}  // namespace undershelf::content

namespace undershelf {

/// Words that all have to be somewhere in a text. Case and accents do not count.
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
