#pragma once
// How much of a volume's lost content reads as zeros, as discarded space does. A file of unknown kind that
// reads so throughout may be one of nothing but zeros, all the more where no other lost file does.

#include <functional>
#include <map>
#include <vector>

#include "base/bytes.hpp"

namespace undershelf {

class Emptied {
  public:
    /// The first bytes of a lost file.
    using FirstBytesOf = std::function<ByteVector(std::int64_t entry)>;
    explicit Emptied(FirstBytesOf first_bytes_of) : first_bytes_of_(std::move(first_bytes_of)) {}

    /// A lost file with a recorded layout, of a kind that never begins with zeros. Only some are kept.
    void add(int volume, std::int64_t entry);

    struct Answer {
        std::size_t files = 0;  ///< that were looked at
        std::size_t zeros = 0;  ///< of them that begin with zeros
    };
    /// Looks at the volume's files at the first question.
    Answer of(int volume);

  private:
    struct Files {
        std::vector<std::int64_t> entries;
        std::size_t seen = 0;
        bool looked = false;
        Answer answer;
    };
    FirstBytesOf first_bytes_of_;
    std::map<int, Files> volumes_;
};

}  // namespace undershelf
