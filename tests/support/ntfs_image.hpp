#pragma once
// NTFS volumes for tests, written byte by byte: attributes, records with their fixups, index entries, journal
// records.

#include <string>
#include <vector>

#include "base/bytes.hpp"
#include "support/read_volume.hpp"

namespace undershelf::test::ntfs {

constexpr std::size_t cluster = 4096, mft = 4 * cluster, record_size = 1024;
constexpr std::uint64_t when = 133'540'000'000'000'000;  ///< 2024-03-04T04:26:40Z

ByteVector resident(std::uint32_t type, Bytes value, const std::u16string& name = {});

struct TestRun {
    std::int64_t step;  ///< to the LCN before; 0: sparse
    std::uint64_t count;
};
ByteVector non_resident(std::uint32_t type, const std::vector<TestRun>& runs, std::uint64_t size,
                        std::uint64_t valid, std::uint16_t flags = 0, std::uint64_t svcn = 0,
                        const std::u16string& name = {});
ByteVector file_name(std::uint64_t parent, std::uint16_t sequence, const std::u16string& name,
                     std::uint8_t type = 1, std::uint32_t fa = 0x20);
/// The value of $REPARSE_POINT of a symbolic link, or of a junction, with the name that the driver uses and
/// the one that is shown.
ByteVector link_value(const std::u16string& substitute, const std::u16string& print, bool junction = false);
/// A link as the content of a small system file.
ByteVector stored_link_bytes(const std::u16string& target);
/// An index entry with a $FILE_NAME; `ref` is record number and sequence.
ByteVector index_entry(std::uint64_t ref, const ByteVector& name);
/// A change journal record of version 2 or 3.
ByteVector journal_record(int version, std::uint64_t file, std::uint64_t folder, const std::u16string& name,
                          std::uint32_t reason, std::uint64_t time, std::uint32_t fa = 0x20);
/// A record without fixups. `flags`: 1 in use, 2 folder.
ByteVector plain_record(std::uint64_t n, std::uint16_t sequence, std::uint16_t flags,
                        const std::vector<ByteVector>& attributes, std::uint64_t base = 0,
                        std::size_t size = record_size);
Bytes as_bytes(const std::string& s);

/// 4 MiB, clusters of 4 KiB, records of 1 KiB, the $MFT in 32 clusters from cluster 4.
class Image {
  public:
    Image();
    void record(std::uint64_t n, std::uint16_t sequence, std::uint16_t flags,
                const std::vector<ByteVector>& attributes, std::uint64_t base = 0);
    /// Puts the fixups in and the record in its place.
    void write(std::uint64_t n, ByteVector record);
    std::size_t place(std::uint64_t n) const { return mft + n * record_size; }
    void fill(std::uint64_t lcn, const std::string& content);
    void put(std::size_t at, Bytes what);

    /// `fa`: file attributes.
    static ByteVector times(std::uint32_t fa = 0);
    static ByteVector name(std::uint64_t parent, std::uint16_t sequence, const std::u16string& text,
                           std::uint8_t type = 1);

    ByteVector bytes;
};

/// Puts fixups into a record, index block or log page of `r.size()` bytes whose array is at `array`.
void put_fixups(MutableBytes r, std::size_t array);
/// Everything that the reader of the volume at the start of `bytes` hands over.
Collector read(const ByteVector& bytes);
using test::content_of;

}  // namespace undershelf::test::ntfs
