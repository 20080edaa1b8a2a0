#pragma once
// What journals and indexes say of files in passing: that a file, in one life of its record, had a name in a
// folder.

#include <cstdint>
#include <functional>
#include <optional>
#include <string>

#include "base/bytes.hpp"
#include "base/timestamp.hpp"

namespace undershelf::ntfs {

/// A file or folder in one life of its record.
struct Reference {
    std::uint64_t record = 0;
    std::uint16_t sequence = 0;

    /// From its form on disk: 48 bits of record number, 16 of sequence.
    static Reference unpack(std::uint64_t value) {
        return {value & 0xFFFFFFFFFFFF, static_cast<std::uint16_t>(value >> 48)};
    }
    std::uint64_t packed() const { return record | std::uint64_t{sequence} << 48; }
    auto operator<=>(const Reference&) const = default;
};

/// Sequence numbers skip 0 when they wrap.
inline std::uint16_t next_sequence(std::uint16_t s) {
    return s == 0xFFFF ? 1 : static_cast<std::uint16_t>(s + 1);
}

struct Mention {
    enum class What : std::uint8_t {
        named,    ///< it had this name
        renamed,  ///< it had this name until it was renamed or moved
        deleted,  ///< it had this name when it was deleted
    };
    What what = What::named;
    Reference file, folder;
    std::u16string name;
    bool is_dir = false;
    MaybeTime when;  ///< of the mention itself, where it is dated
    MaybeTime created, modified;
    std::uint64_t size = 0;    ///< bytes; 0 where it is not told
    std::uint64_t source = 0;  ///< where it is in the source, bytes
};
using MentionSink = std::function<void(Mention&&)>;

/// A $FILE_NAME with the index entry before it, if these bytes can be that: the lengths agree, and the times
/// are of this age.
std::optional<Mention> index_entry_mention(Bytes bytes);

/// Could an entry of a folder's index be here, or the mark that ends it?
bool looks_like_index_entry(Bytes bytes);

/// Could a $FILE_NAME be here, of which the first `cut` bytes were written over? What is left of its four
/// times is of this age, and its name is one.
bool looks_like_name(Bytes bytes, std::size_t cut = 0);

}  // namespace undershelf::ntfs
