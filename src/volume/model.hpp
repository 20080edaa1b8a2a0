#pragma once
// The common model of what file systems tell: volumes, and entries with their content, claims and evidence.
// Everything is in bytes of the source, so that one rating engine and one exporter serve all file systems.

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/byte_range.hpp"
#include "base/bytes.hpp"
#include "base/timestamp.hpp"

namespace undershelf {

enum class VolumeState : std::uint8_t { present, former };

/// One file system on a source.
struct Volume {
    int number = 0;            ///< from 1, in the order inspect lists them
    std::string family;        ///< which reader understands it: `FAT`, `exFAT`, ...
    std::string file_system;   ///< `FAT12`, `FAT32`, `HFSX`, ...
    std::uint64_t offset = 0;  ///< bytes from the start of the source
    std::uint64_t size = 0;    ///< bytes the volume occupies
    std::uint32_t cluster_size = 0;
    std::string label;
    std::string serial;  ///< as the trade writes it; empty for none
    VolumeState state = VolumeState::present;
    std::string found_by;           ///< in words: `boot sector`, `backup boot sector`, ...
    double support = 1;             ///< 0 to 1: share of its structures that are where they should be
    std::uint64_t head_offset = 0;  ///< where the head stands that describes it: its own start, or a copy
    std::uint64_t grid_start = 0;   ///< of its first cluster or block in the source, bytes
    bool readable = true;           ///< this program can scan it
    std::string geometry;           ///< where no head stands: what its file system must know, for it alone
    std::string votes;              ///< what speaks for it, and what against: sentences, one a line
};

enum class Origin : std::uint8_t { live, deleted, former, unnamed };
enum class NameCertainty : std::uint8_t { full, first_letter_unknown, fragment, made_up };
enum class Layout : std::uint8_t { none, assumed, known };
enum class Grade : std::uint8_t {
    none,
    gone,
    partial,
    doubtful,
    likely,
    verified
};  // ascending; none: folders

/// One life of one file in its volume. What the two numbers are is the file system's affair: a record number
/// and its sequence, a catalogue id and a date, the source offset of a slot.
struct EntryKey {
    std::uint64_t a = 0;
    std::uint64_t b = 0;
    auto operator<=>(const EntryKey&) const = default;
};

/// The root folder of every volume.
constexpr EntryKey root_key{~0ull, ~0ull};

enum class PieceKind : std::uint8_t {
    stored,   ///< a byte range of the source
    zeros,    ///< sparse, or beyond the valid length
    inlined,  ///< bytes kept with the entry, such as resident data
    packed,   ///< source ranges that a codec turns into `length` bytes
    missing,  ///< known to be lost
};

enum class Codec : std::uint8_t { none, lznt1, zlib_chunk };

/// A stretch of a file's content. Pieces of one entry are ascending and do not overlap.
struct Piece {
    PieceKind kind = PieceKind::stored;
    bool known = true;         ///< else assumed
    std::uint64_t offset = 0;  ///< in the file
    std::uint64_t length = 0;  ///< in the file
    std::uint64_t source = 0;  ///< stored: where it starts; inlined: where the bytes stood
    Codec codec = Codec::none;
    ByteVector bytes;              ///< inlined
    std::vector<ByteRange> input;  ///< packed: what the codec reads, in order

    ByteRange source_range() const { return {source, length}; }
    bool operator==(const Piece&) const = default;
};

/// What speaks for or against an entry. What each says in words, and its effect, is the rating's affair.
enum class Fact : std::uint16_t {
    live_chain = 1,         ///< layout from the live chain
    chain_from_second_fat,  ///< the first FAT's chain was wrong there
    chain_too_short,        ///< a: bytes the chain holds
    chain_too_long,         ///< a: bytes the chain holds
    chain_crosses,          ///< the chain runs into another file's; a: clusters of its own
    chain_leaves_volume,    ///< a: clusters up to there
    single_cluster,         ///< one cluster is enough, its start is known
    contiguous,             ///< assumed to lie in one run of free clusters
    next_free,              ///< assumed to step over clusters in use; a: runs
    start_in_use,           ///< the first cluster belongs to a live file now
    start_outside,          ///< the start cluster a lies outside the volume
    high_word_argued,       ///< start cluster's high half rebuilt; a: cluster, b: candidates
    no_start,               ///< metadata names no place for the content
    long_name_checksum,     ///< long name tied to the short one by checksum
    first_letter_solved,    ///< a: the letter, from the checksum and the long name
    first_letter_argued,    ///< a: the letter, from numbered siblings
    first_letter_lost,
    name_fragment,
    stand_in_name,
    old_name,             ///< text: a path this file had before it was renamed or moved; b: see old_name_bit
    folder_lost_self,     ///< the folder's first cluster holds no folder of its own any more
    after_end_mark,       ///< its slot stands behind the folder's end mark
    bad_metadata,         ///< text: what is wrong
    overwritten,          ///< a: bytes, b: entry that has them now, 0 for the file system itself
    contested,            ///< a: bytes, b: the other lost entry
    unreadable,           ///< a: bytes
    beyond_source,        ///< a: bytes
    reads_zero,           ///< a: bytes of zeros where this kind of file has none
    volume_discards,      ///< most deleted content of the volume reads as zeros
    content_agrees,       ///< text: format the first bytes show
    content_contradicts,  ///< text: format the first bytes show
    content_verified,     ///< text: format, checked to its end
    content_fails,        ///< text: where and how the check failed
    layout_prior,         ///< a: live files of that size laid out so, b: live files of that size
    in_bin,               ///< text: where it was before
    set_checksum,         ///< the entry set's checksum holds
    extents_known,        ///< layout from a run list or extents record
    allocated_no_owner,   ///< a: bytes in use now, by nobody that is listed
    compressed,           ///< text: method
    encrypted,
    reparse_point,    ///< text: kind and target
    stale_reference,  ///< its parent folder's record has been reused
    torn_record,
    from_journal,
    from_index,
    empty_slot,          ///< a lost file without length; a: empty live files, b: live files
    live_content,        ///< read as its driver would read it
    recorded_layout,     ///< the metadata says where the content lies
    not_reused,          ///< nobody is known to have written over it since
    text_throughout,     ///< every byte looked at is one of a text
    date_argued,         ///< text: from what
    extended_attribute,  ///< text: name and length
    moved_to_root,       ///< text: why it does not stand where its metadata says
    in_slack,            ///< its metadata stands behind the end of a live file
    chain_freed,         ///< it had a chain, which is gone; of b live files that have one, a lie in one run
    step_prior,          ///< of b live files that step over clusters in use, a lie as a guess would have them
    in_turns,            ///< entry b of the same age runs into its start
    siblings,            ///< a: live files of its extension; b: 1 if it begins like them; text: what they are
    steps_over_lost,     ///< a: lost files that were there when it was written, and still stand
    former_chain,        ///< the chain stands in what is left of a former volume's FAT
    deleted_before,      ///< of a former volume, and deleted before that volume was given up
    not_copied,          ///< a: bytes that stand where the source of an image was not asked yet
    checked_whole,       ///< a: where its structure ends, b: how strongly that was checked, text: its format
    checked_broken,      ///< a: up to where it holds, b: as above, text: what is wrong there
    checked_cut,         ///< a: up to where it holds, text: what of it stands behind its end
    title_inside,        ///< text: what its content calls itself
    slack,               ///< of a live files, b have zeros behind their end; text: whether this one has
    ends_itself,         ///< recognised by its content alone; its own structure tells its end
    ends_in_zeros,       ///< the same; zeros follow behind its end, up to the end of its cluster
    cut_off,             ///< the same; its end is not known. text: why it is taken up to there
    loose_end,           ///< zeros follow behind its end, the first of which may be its own
    begins_within,       ///< a text that begins as in the middle of a line
    others_within,       ///< contents that hold by themselves begin within it
    odd_head,            ///< what is wrong in it stands in its first sector, beside its mark
    date_inside,         ///< its dates stand in its content; text: where
    ends_early,          ///< what is there holds, and ends as a shorter file at byte a
    volume_ends_early,   ///< so do a of b files of its volume that hold
    foreign_start,       ///< a fair check holds it, and entry a is recorded to begin within it, and does
    kind_habit,          ///< of b files of its extension, text, whose layout is known, a lie in one run
    zeroed_slots,        ///< its slots were deleted with zeros, behind the folder's other entries
    short_alias,         ///< only the alias of its name is left: its extension is cut to three letters
};

struct Evidence {
    Fact fact{};
    std::uint64_t a = 0;
    std::uint64_t b = 0;
    std::string text;
    float chance = 1;  ///< factor on the chance, set by the rating
    float left = 0;    ///< change of the share left, set by the rating
    bool operator==(const Evidence&) const = default;
};

/// What Evidence::b says of an old name.
namespace old_name_bit {
constexpr std::uint64_t order_unknown = 1, incomplete = 2;
}
/// Of one entry. A file that a program saves by renaming has one for each time.
constexpr std::size_t most_earlier_names = 64;

inline bool has_fact(const std::vector<Evidence>& evidence, Fact fact) {
    for (const auto& e : evidence) {
        if (e.fact == fact) return true;
    }
    return false;
}

/// One file, folder or named stream.
struct Entry {
    EntryKey key;
    EntryKey parent = root_key;
    Origin origin = Origin::live;
    std::string name;    ///< UTF-8, NFC; for a stream its file's name
    std::string stream;  ///< name of the stream; empty for the main content
    NameCertainty name_certainty = NameCertainty::full;
    bool is_dir = false;
    bool system = false;
    std::uint64_t size = 0;
    std::uint32_t attributes = 0;  ///< see Attribute
    MaybeTime created, modified, accessed, deleted;
    bool helper = false;  ///< it only serves a bin or a viewer
    bool binned = false;
    std::string first_path;  ///< where a binned file was before
    /// Where its metadata says that its content begins, bytes of the source; for file systems that leave an
    /// entry wherever a file was moved from.
    std::optional<std::uint64_t> start;
    Layout layout = Layout::none;
    std::vector<Piece> pieces;
    std::vector<ByteRange> claims;  ///< every source range allocated to it, also beyond its end
    std::vector<Evidence> evidence;
};

/// The stream whose content is an AppleDouble file (RFC 1740): resource fork and Finder info. Exported as
/// `._NAME`.
constexpr const char* resource_fork_stream = "resource fork";

/// Attributes in common; they have the values of the FAT directory entry's DIR_Attr.
namespace attribute {
constexpr std::uint32_t read_only = 0x01, hidden = 0x02, system = 0x04, archive = 0x20;
}

}  // namespace undershelf
