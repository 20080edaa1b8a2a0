#pragma once
// HFS+ volumes for tests, written byte by byte after Apple's TN1150: trees of a few nodes, records, a
// journal.

#include <string>
#include <vector>

#include "hfsplus/structures.hpp"
#include "support/read_volume.hpp"

namespace undershelf::test::hfsplus {

constexpr std::size_t block = 4096, node_size = 4096;
constexpr std::uint32_t when = 3'792'355'200;  ///< 2024-03-04T00:00:00Z, seconds since 1904

/// What goes into a fork: up to eight extents, start and count.
struct ForkSpec {
    std::uint64_t size = 0;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> extents{};
    std::uint32_t blocks = 0;  ///< 0: as many as the extents hold
};

struct FileSpec {
    std::uint32_t id = 0, parent = 2;
    std::u16string name{};
    ForkSpec data{}, resource{};
    std::uint32_t type = 0, creator = 0, special = 0;
    std::uint8_t owner_flags = 0;
    std::uint32_t changed = when;
};

ByteVector file_record(const FileSpec& file);
ByteVector folder_record(std::uint32_t id, std::uint32_t parent, const std::u16string& name);
ByteVector thread_record(std::uint32_t id, std::uint32_t parent, const std::u16string& name,
                         bool is_dir = false);
ByteVector overflow_record(std::uint32_t id, std::uint32_t start_block,
                           const std::vector<std::pair<std::uint32_t, std::uint32_t>>& extents);
ByteVector attribute_record(std::uint32_t id, const std::u16string& name, Bytes data);
/// The data of a com.apple.decmpfs attribute.
ByteVector decmpfs(std::uint32_t type, std::uint64_t size, Bytes data = {});
ByteVector index_record(std::uint32_t parent, const std::u16string& name, std::uint32_t child);
/// A node with these records, its offsets in place.
ByteVector node_of(std::int8_t kind, const std::vector<ByteVector>& records, std::uint32_t next = 0);

constexpr std::uint32_t hard_link_type = 0x686C6E6B, hard_link_creator = 0x6866732B;
constexpr std::uint32_t folder_link_type = 0x66647270, folder_link_creator = 0x4D414353;

/// 4 MiB, blocks of 4 KiB, a catalogue of 8 nodes; the root folder is "CUES".
class Image {
  public:
    enum Tree { extents, catalogue, attributes };

    explicit Image(bool with_journal = false);
    /// Puts node `n` of a tree into its place.
    void node(Tree tree, std::uint32_t n, const ByteVector& bytes);
    /// Makes `leaves` of records the leaves of a tree, node 1 and on, chained; with an index above them if
    /// there are several.
    void leaves(Tree tree, const std::vector<std::vector<ByteVector>>& leaves);
    /// Where node `n` of a tree is.
    std::size_t place(Tree tree, std::uint32_t n = 0) const;
    void fill(std::uint32_t at_block, const std::string& content);
    void put(std::size_t at, Bytes what);
    /// Adds a transaction with the new image of what is at `target`, in the byte order wanted.
    void transaction(std::size_t target, const ByteVector& image, bool big = false);

    ByteVector bytes;

  private:
    void header_node(Tree tree, std::uint32_t depth, std::uint32_t root, std::uint32_t first,
                     std::uint32_t last, std::uint32_t used);
    std::size_t journal_end_ = 512;
};

Collector read(const ByteVector& bytes);
using test::content_of;
const Entry* find_stream(const Collector& seen, const std::string& name, const std::string& stream);

}  // namespace undershelf::test::hfsplus
