#pragma once
// Compound files ([MS-CFB]), in which older office documents are: sectors chained by a table, as on a FAT
// volume, a directory of streams, and a stream that holds the small ones in sectors of 64 bytes.

#include <map>
#include <string>

#include "content/density.hpp"
#include "content/memory.hpp"

namespace undershelf::content {

/// A compound file that contradicts itself.
struct CompoundWrong {
    std::uint64_t at = 0;  ///< offset up to which nothing contradicts
    const char* why = "";
};

struct CompoundStream {
    std::string name;           ///< ASCII; other characters are `?`
    std::uint32_t storage = 0;  ///< the directory entry of the storage it is in; 0 is the root
    std::uint32_t start = 0;    ///< its first sector
    std::uint64_t size = 0;     ///< bytes
};

class CompoundFile {
  public:
    /// Reads table and directory, and follows every chain. Throws CompoundWrong.
    explicit CompoundFile(Content& content);

    static bool begins(Bytes first);
    /// Where its last sector in use ends; it may be cut off after the bytes that its stream has there.
    std::uint64_t end() const { return end_; }
    const std::vector<CompoundStream>& streams() const { return streams_; }
    const CompoundStream* stream(std::string_view name, std::uint32_t storage) const;
    bool is_small(const CompoundStream& stream) const { return stream.size < small_limit_; }
    /// Sectors of `stream`, which is no small one, in order.
    std::vector<std::uint32_t> sectors_of(const CompoundStream& stream) const;
    std::uint64_t sector_size() const { return std::uint64_t{1} << shift_; }
    std::uint64_t offset_of(std::uint32_t sector) const { return (std::uint64_t{sector} + 1) << shift_; }
    /// The bytes of a small stream.
    ByteVector read_small(const CompoundStream& stream) const;
    /// Bytes of table and directory.
    std::uint64_t structure_bytes() const { return structure_bytes_; }

  private:
    void read_head();
    void read_table();
    void read_directory();
    void walk_tree(Bytes directory);
    void check_streams();
    std::vector<std::uint32_t> chain(std::uint32_t start) const;
    std::vector<std::uint32_t> claim(std::uint32_t start);
    ByteVector read_chain(const std::vector<std::uint32_t>& sectors);
    std::uint64_t vouched_by_table_at(std::size_t table_sector) const;

    Content& content_;
    MemoryClaim memory_;
    unsigned shift_ = 9;
    std::uint64_t small_limit_ = 4096;
    std::uint32_t directory_start_ = 0, small_table_start_ = 0, table_sectors_ = 0;
    std::vector<std::uint32_t> table_places_;  ///< the table's own sectors
    std::vector<std::uint32_t> next_;          ///< the table
    std::vector<bool> claimed_;
    std::vector<CompoundStream> streams_;
    std::uint32_t small_start_ = 0;
    ByteVector small_next_;  ///< the table of small sectors
    std::uint64_t small_size_ = 0;
    std::uint64_t end_ = 0, structure_bytes_ = 0;
};

/// A stream's bytes. The file must outlive it.
class CompoundStreamContent final : public Content {
  public:
    CompoundStreamContent(Content& whole, const CompoundFile& file, const CompoundStream& stream)
        : whole_(whole), file_(file), sectors_(file.sectors_of(stream)), size_(stream.size) {}
    std::uint64_t size() const override { return size_; }
    std::size_t read(std::uint64_t offset, MutableBytes out) override;
    /// Where in the file the stream's byte at `offset` is.
    std::uint64_t place_of(std::uint64_t offset) const;

  private:
    Content& whole_;
    const CompoundFile& file_;
    std::vector<std::uint32_t> sectors_;
    std::uint64_t size_;
};

}  // namespace undershelf::content
