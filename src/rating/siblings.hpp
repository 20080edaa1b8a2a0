#pragma once
// What the live files of an extension all are. Extensions without a signature say nothing by themselves; but
// where every live one begins as a text, or as binary data, or with the same bytes, a lost one should, too.

#include <functional>
#include <map>
#include <string>
#include <vector>

#include "base/bytes.hpp"
#include "content/formats.hpp"

namespace undershelf {

class Siblings {
  public:
    /// The first bytes of a live file, signature_bytes at most.
    using FirstBytesOf = std::function<ByteVector(std::int64_t entry)>;
    explicit Siblings(FirstBytesOf first_bytes_of) : first_bytes_of_(std::move(first_bytes_of)) {}

    /// A live file. Of each extension a few are kept, spread over all that are added, and only of extensions
    /// that need it.
    void add(int volume, const std::string& ext, std::int64_t entry);

    enum class Fit {
        unknown,      ///< there are no siblings, or they have nothing in common
        looks_alike,  ///< text among texts, binary data among binary data
        same_start,  ///< is of the format that all of them are, or begins with the bytes that they begin with
        differs,
    };
    struct Answer {
        Fit fit = Fit::unknown;
        std::size_t files = 0;    ///< that were looked at
        std::string common = {};  ///< what they have in common, in words
    };
    /// Holds the first bytes of a lost file against its siblings; looks at these at the first question.
    Answer compare(int volume, const std::string& ext, Bytes first);

  private:
    struct Family {
        std::vector<std::int64_t> entries;
        std::uint64_t added = 0;
        bool looked = false;
        std::size_t files = 0, texts = 0;
        ByteVector start;                ///< the bytes that all begin with
        const Format* format = nullptr;  ///< that all are of; null for several, for none, for plain text
    };
    void look(Family& family) const;

    FirstBytesOf first_bytes_of_;
    std::map<std::pair<int, std::string>, Family> families_;
};

}  // namespace undershelf
