#pragma once
// The files that an export keeps beside the payload while it is at work; for the bag's own files alone.

#include <fcntl.h>
#include <fmt/format.h>

#include <string>
#include <system_error>

#include "base/bytes.hpp"
#include "base/error.hpp"
#include "base/line_reader.hpp"
#include "writing/folder.hpp"
#include "writing/output_file.hpp"

namespace undershelf::bag_file {

inline const std::string work = ".unfinished";
inline const std::string journal = work + "/journal.jsonl", fresh_journal = journal + ".new";
inline constexpr const char* job_label = "Undershelf-Job: ";

inline Bytes bytes_of(const std::string& text) {
    return {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()};
}

/// Calls `visit` for the lines of a file of the bag; none where there is no file.
template <class Visit>
void each_line(const Folder& folder, const std::string& path, const Visit& visit) {
    if (!folder.is_file(path)) return;
    const auto fd = folder.open(path, O_RDONLY | O_NONBLOCK);
    LineReader lines(fd.get());
    for (std::string line; lines.next(line);) visit(line);
}

inline Error cannot_write(const std::string& folder, const std::error_code& code) {
    return {
        Trouble::output,
        fmt::format("Nothing can be written to {}: {}. What is finished is kept. Check its permissions and "
                    "free space, and give the same command again.",
                    folder, in_words(code))};
}

}  // namespace undershelf::bag_file
