#pragma once
// A ZIP file's own directory, read from its end (the format's application note, 4.3.12 and 4.3.16), for what
// wants a certain member alone.

#include <functional>
#include <string>
#include <vector>

#include "content/content.hpp"

namespace undershelf::content {

struct ZipDirectoryMember {
    std::string name;
    std::uint16_t method = 0;
    std::uint16_t time = 0, date = 0;  ///< as MS-DOS has them
    std::uint64_t packed = 0;          ///< bytes
    std::uint64_t size = 0;            ///< bytes, unpacked
    std::uint64_t offset = 0;          ///< of its own head
};

/// The members that the directory tells of; none where it cannot be read. Costs no more than the directory's
/// bytes, of which there are 16 MiB at most.
std::vector<ZipDirectoryMember> zip_directory(Content& content);
/// Gives a member's bytes, `most` of them at most. Nothing where it is packed in a way of its own.
void read_zip_member(Content& content, const ZipDirectoryMember& member, std::uint64_t most,
                     const std::function<void(Bytes)>& take);

}  // namespace undershelf::content
