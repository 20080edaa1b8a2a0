#pragma once
// What is after the ends of files, up to the end of their last sector. Common drivers fill it with
// zeros; where a volume's live files show that, a lost file whose last sector ends otherwise most likely does
// not end there.

#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "volume/content_stream.hpp"

namespace undershelf {

/// The end of a content where it can tell something: it ends within a sector, and not with zeros.
struct FileEnd {
    bool zeros_behind = false;
};

/// Nothing where the content ends with its sector, or nearly so, where its end is zeros itself, or where it
/// is not read from the source as it is (packed, or kept in a record).
std::optional<FileEnd> file_end(const Source& source, const std::vector<Piece>& pieces, std::uint64_t size);

/// How live files end, by volume and extension: cameras, phones and computers write other kinds of files,
/// each in its own way.
class SlackHabits {
  public:
    using EndOf = std::function<std::optional<FileEnd>(std::int64_t entry)>;
    explicit SlackHabits(EndOf end_of) : end_of_(std::move(end_of)) {}

    /// A live file. Only a few of each extension are kept.
    void add(int volume, const std::string& ext, std::int64_t entry);

    struct Answer {
        std::size_t files = 0;  ///< whose ends tell something
        std::size_t zeros = 0;  ///< of them that have zeros after
        /// The share of files of such writers that have. Most writers do one or the other throughout, so that
        /// few files tell nearly all: Beta(1/2, 1/20).
        double share() const {
            return (static_cast<double>(zeros) + 0.5) / (static_cast<double>(files) + 0.55);
        }
    };
    /// Of live files of this extension, or of the whole volume where those are too few. Looks at them at the
    /// first question.
    Answer of(int volume, const std::string& ext);

  private:
    struct Family {
        std::vector<std::int64_t> entries;
        bool looked = false;
        Answer answer;
    };
    void keep(int volume, const std::string& ext, std::int64_t entry);
    const Answer* look(int volume, const std::string& ext);

    EndOf end_of_;
    std::map<std::pair<int, std::string>, Family> families_;
};

}  // namespace undershelf
