#pragma once
// The journal: a ring of transactions, each a list of volume blocks with their new images. Structures after
// Apple's TN1150, "Journal"; they are in the byte order of the machine that wrote them, which `endian` tells.

#include <functional>

#include "hfsplus/fork.hpp"

namespace undershelf::hfsplus {

/// The image of a stretch of the volume that a transaction wrote.
struct JournalImage {
    std::uint64_t target = 0;  ///< in the source, bytes: what it is an image of
    std::uint64_t source = 0;  ///< in the source, bytes: where the image is
    ByteVector bytes;
};

struct JournalSink {
    std::function<void(JournalImage&&)> image;
    std::function<void()> end_of_transaction;
    std::function<void(std::string)> diagnostic;
};

/// Every transaction that is still whole in the ring, finished ones included, oldest first.
/// `journal_info_block` is the header's journalInfoBlock. Does nothing when the volume has no journal here.
void read_journal(const Source& source, const Geometry& geometry, std::uint32_t journal_info_block,
                  const JournalSink& sink);

/// Where the journal info block says that the journal is, in the source and as far as it is within the
/// volume, whatever is there; nothing when the volume has none here.
std::optional<ByteRange> journal_said(const Source& source, const Geometry& geometry,
                                      std::uint32_t journal_info_block);

/// Where the journal is in the source; nothing when the volume has none here, or its head makes no sense.
std::vector<ByteRange> journal_places(const Source& source, const Geometry& geometry,
                                      std::uint32_t journal_info_block);

}  // namespace undershelf::hfsplus
