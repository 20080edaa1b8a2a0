#pragma once
// The files that an export keeps beside the payload while it is at work; for the bag's own files alone.

#include <fcntl.h>
#include <fmt/format.h>

#include <charconv>
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
/// The tag files of a round that is complete, on their way to their places. The folder gets its name once all
/// of them are on the drive: from then on the round is finished, whatever happens.
inline const std::string new_tags = work + "/tags", tags_in_work = work + "/tags.new";
inline constexpr const char* manifest_name = "manifest-sha256.txt";
inline constexpr const char* tag_manifest_name = "tagmanifest-sha256.txt";
inline constexpr const char* exported_name = "exported.jsonl";
inline constexpr const char* info_name = "bag-info.txt";
inline constexpr const char* declaration_name = "bagit.txt";
/// In the order in which they go to their places: without the last of them a folder is no bag.
inline constexpr const char* tag_files[] = {manifest_name, exported_name, info_name, tag_manifest_name,
                                            declaration_name};

/// Where a tag file is now.
inline std::string place_of_tag(const Folder& bag, const std::string& name) {
    const auto waiting = new_tags + "/" + name;
    return bag.is_file(waiting) ? waiting : name;
}

/// Two numbers with a point between them.
template <class Number>
bool parse_two(const std::string& text, Number& first, Number& second) {
    const auto* end = text.data() + text.size();
    const auto [point, ec] = std::from_chars(text.data(), end, first);
    if (ec != std::errc{} || point == end || *point != '.') return false;
    const auto [last, ec2] = std::from_chars(point + 1, end, second);
    return ec2 == std::errc{} && last == end;
}

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
