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

// The numbers of these go into shelves: they stay what they are, and new ones get new numbers.

enum class VolumeState : std::uint8_t { present = 0, former = 1 };

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
    std::uint64_t head_offset = 0;  ///< of the head that describes it: its own start, or a copy's
    std::uint64_t grid_start = 0;   ///< of its first cluster or block in the source, bytes
    bool readable = true;           ///< this program can scan it
    std::string geometry;           ///< without a head: what its file system must know, for it alone
    std::string votes;              ///< what speaks for it, and what against: sentences, one a line
};

enum class Origin : std::uint8_t { live = 0, deleted = 1, former = 2, unnamed = 3 };
enum class NameCertainty : std::uint8_t { full = 0, first_letter_unknown = 1, fragment = 2, made_up = 3 };
enum class Layout : std::uint8_t { none = 0, assumed = 1, known = 2 };
enum class Grade : std::uint8_t {
    none = 0,
    gone = 1,
    partial = 2,
    doubtful = 3,
    likely = 4,
    verified = 5,
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
    stored = 0,   ///< a byte range of the source
    zeros = 1,    ///< sparse, or beyond the valid length
    inlined = 2,  ///< bytes kept with the entry, such as resident data
    packed = 3,   ///< source ranges that a codec turns into `length` bytes
    missing = 4,  ///< known to be lost
};

enum class Codec : std::uint8_t { none = 0, lznt1 = 1, zlib_chunk = 2 };

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
/// 29, 32, 35 and 38 were given to facts that no version has ever written.
enum class Fact : std::uint16_t {
    live_chain = 1,             ///< layout from the live chain
    chain_from_second_fat = 2,  ///< the first FAT's chain was wrong there
    chain_too_short = 3,        ///< a: bytes the chain holds
    chain_too_long = 4,         ///< a: bytes the chain holds
    chain_crosses = 5,          ///< the chain runs into another file's; a: clusters of its own
    chain_leaves_volume = 6,    ///< a: clusters up to there
    single_cluster = 7,         ///< one cluster is enough, its start is known
    contiguous = 8,             ///< assumed to lie in one run of free clusters
    next_free = 9,              ///< assumed to step over clusters in use; a: runs
    start_in_use = 10,          ///< the first cluster belongs to a live file now
    start_outside = 11,         ///< the start cluster a lies outside the volume
    high_word_argued = 12,      ///< start cluster's high half rebuilt; a: cluster, b: candidates
    no_start = 13,              ///< metadata names no place for the content
    long_name_checksum = 14,    ///< long name tied to the short one by checksum
    first_letter_solved = 15,   ///< a: the letter, from the checksum and the long name
    first_letter_argued = 16,   ///< a: the letter, from numbered siblings
    first_letter_lost = 17,
    name_fragment = 18,
    stand_in_name = 19,
    old_name = 20,  ///< text: a path this file had before it was renamed or moved; b: see old_name_bit
    folder_lost_self = 21,     ///< the folder's first cluster holds no folder of its own any more
    after_end_mark = 22,       ///< its slot is after the folder's end mark
    bad_metadata = 23,         ///< text: what is wrong
    overwritten = 24,          ///< a: bytes, b: entry that has them now, 0 for the file system itself
    contested = 25,            ///< a: bytes, b: the other lost entry
    unreadable = 26,           ///< a: bytes
    beyond_source = 27,        ///< a: bytes
    reads_zero = 28,           ///< a: bytes of zeros where this kind of file has none
    content_agrees = 30,       ///< text: format the first bytes show
    content_contradicts = 31,  ///< text: format the first bytes show
    content_fails = 33,        ///< text: where and how the check failed
    layout_prior = 34,         ///< a: live files of that size laid out so, b: live files of that size
    set_checksum = 36,         ///< the entry set's checksum holds
    extents_known = 37,        ///< layout from a run list or extents record
    compressed = 39,           ///< text: method
    encrypted = 40,
    reparse_point = 41,    ///< text: kind and target
    stale_reference = 42,  ///< its parent folder's record has been reused
    torn_record = 43,
    from_journal = 44,
    from_index = 45,
    empty_slot = 46,          ///< a lost file without length; a: empty live files, b: live files
    live_content = 47,        ///< read as its driver would read it
    recorded_layout = 48,     ///< the metadata says where the content lies
    not_reused = 49,          ///< nobody is known to have written over it since
    text_throughout = 50,     ///< every byte looked at is one of a text
    date_argued = 51,         ///< text: from what
    extended_attribute = 52,  ///< text: name and length
    moved_to_root = 53,       ///< text: why it is not where its metadata says
    in_slack = 54,            ///< its metadata is after the end of a live file, in its last cluster
    chain_freed = 55,  ///< it had a chain, which is gone; of b live files that have one, a lie in one run
    step_prior = 56,   ///< of b live files that step over clusters in use, a lie as a guess would have them
    in_turns = 57,     ///< entry b of the same age runs into its start
    siblings = 58,     ///< a: live files of its extension; b: 1 if it begins like them; text: what they are
    steps_over_lost = 59,  ///< a: lost files that were there when it was written, and still are
    former_chain = 60,     ///< what is left of a former volume's FAT has its chain
    deleted_before = 61,   ///< of a former volume, and deleted before that volume was given up
    not_copied = 62,       ///< a: bytes of a part of the source that is not copied yet
    checked_whole = 63,   ///< a: where its structure ends, b: how strongly that was checked, text: its format
    checked_broken = 64,  ///< a: up to where it holds, b: as above, text: what is wrong there
    checked_cut = 65,     ///< a: up to where it holds, text: what of it is after its end
    title_inside = 66,    ///< text: what its content calls itself
    slack = 67,           ///< of a live files, b have zeros after their end; text: whether this one has
    ends_itself = 68,     ///< recognised by its content alone; its own structure tells its end
    ends_in_zeros = 69,   ///< the same; zeros follow its end, up to that of its cluster
    cut_off = 70,         ///< the same; its end is not known. text: why it is taken up to there
    loose_end = 71,       ///< zeros follow its end, the first of which may be its own
    begins_within = 72,   ///< a text that begins as in the middle of a line
    others_within = 73,   ///< contents that hold by themselves begin within it
    odd_head = 74,        ///< what is wrong in it is in its first sector, beside its mark
    date_inside = 75,     ///< its dates are from its content; text: where in it
    ends_early = 76,      ///< what is there holds, and ends as a shorter file at byte a
    volume_ends_early = 77,  ///< so do a of b files of its volume that hold
    foreign_start = 78,      ///< a fair check holds it, and entry a is recorded to begin within it, and does
    kind_habit = 79,         ///< of b files of its extension, text, whose layout is known, a lie in one run
    zeroed_slots = 80,       ///< its slots were deleted with zeros, after the folder's other entries
    short_alias = 81,        ///< only the alias of its name is left: its extension is cut to three letters
    beyond_volume = 82,      ///< a: bytes that lie after its volume's present end
    name_taken_out = 83,     ///< its name is after the used part of its records, from which it was taken
    mended =
        84,  ///< laid out by its own content. a: pieces, b: layouts that held nearly; text: the earlier one
    dealt = 85,  ///< laid out by turns with other files. a: pieces, b: of these, how many tell by holding so;
                 ///< text: the earlier layout
    left_over = 86,  ///< laid out in what others left. a: pieces; text: the earlier layout
};
/// One more than the last Fact.
constexpr std::uint16_t facts_end = 87;

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
    /// Of a link: its target as recorded, UTF-8; empty where it cannot be read. Its content is that target.
    std::optional<std::string> link;
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
