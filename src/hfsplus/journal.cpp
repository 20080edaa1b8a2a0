#include "hfsplus/journal.hpp"

#include <algorithm>

#include "volume/budget.hpp"

namespace undershelf::hfsplus {

namespace {

constexpr std::uint32_t journal_magic = 0x4A4E4C78;  // "JNLx"
constexpr std::uint32_t endian_magic = 0x12345678;
constexpr std::uint64_t most_image = 16 << 20;
constexpr std::size_t list_head_size = 16, block_info_size = 16, checked_size = 32;

/// Numbers in the byte order of the journal's writer.
struct Numbers {
    bool big = false;
    std::uint64_t get(Bytes b, std::size_t at, std::size_t size) const {
        std::uint64_t v = 0;
        for (std::size_t i = 0; i < size; ++i) v |= std::uint64_t{b[at + i]} << 8 * (big ? size - 1 - i : i);
        return v;
    }
};

/// The checksum of TN1150, over a copy whose own field of four bytes at `field` is zero.
std::uint32_t checksum(Bytes bytes, std::size_t field) {
    std::uint32_t sum = 0;
    for (std::size_t i = 0; i < bytes.size(); ++i) {
        const std::uint32_t b = i >= field && i < field + 4 ? 0 : bytes[i];
        sum = (sum << 8) ^ (sum + b);
    }
    return ~sum;
}

class Ring {
  public:
    Ring(const Source& source, const Geometry& g, const JournalInfoBlock& info, const JournalSink& sink)
        : source_(source), g_(g), sink_(sink), start_(g.offset + info.offset.value()) {
        ByteVector head(44);
        source.read(start_, head);
        for (const bool big : {false, true}) {
            numbers_.big = big;
            if (numbers_.get(head, 0, 4) == journal_magic && numbers_.get(head, 4, 4) == endian_magic) break;
        }
        if (numbers_.get(head, 0, 4) != journal_magic) {
            sink.diagnostic("The header of the journal is not one; the journal is not read.");
            return;
        }
        end_ = numbers_.get(head, 16, 8);
        size_ = numbers_.get(head, 24, 8);
        list_size_ = numbers_.get(head, 32, 4);
        sector_ = numbers_.get(head, 40, 4);
        const bool fits = is_power_of_two(sector_) && sector_ >= 512 && sector_ <= 65536 && size_ > sector_ &&
                          size_ <= bound::journal_bytes && size_ <= info.size.value() &&
                          size_ % sector_ == 0 && start_ < source.size() && list_size_ >= 64 &&
                          list_size_ <= (1 << 20) && end_ >= sector_ && end_ <= size_ && end_ % sector_ == 0;
        if (!fits) {
            sink.diagnostic("The header of the journal makes no sense; the journal is not read.");
            size_ = 0;
        }
    }

    /// The oldest transaction is after the newest one's end.
    void read() {
        if (size_ == 0) return;
        const auto length = size_ - sector_;
        for (std::uint64_t done = 0; done < length;) {
            const auto used = read_transaction(wrapped(end_ + done), length - done);
            done += used ? (used + sector_ - 1) / sector_ * sector_ : sector_;
        }
    }

    ByteRange place() const { return {start_, size_}; }

  private:
    /// Positions run from after the header's sector to the end, and from there on again.
    std::uint64_t wrapped(std::uint64_t at) const { return sector_ + (at - sector_) % (size_ - sector_); }

    ByteVector bytes_at(std::uint64_t at, std::uint64_t length) const {
        ByteVector out(static_cast<std::size_t>(length));
        for (std::size_t done = 0; done < out.size();) {
            const auto n = std::min<std::uint64_t>(size_ - at, out.size() - done);
            source_.read(start_ + at, MutableBytes(out).subspan(done, static_cast<std::size_t>(n)));
            done += static_cast<std::size_t>(n);
            at = sector_;
        }
        return out;
    }

    /// Reads the transaction at `at`; 0 when none is there, else the bytes it takes of the `left` ones.
    std::uint64_t read_transaction(std::uint64_t at, std::uint64_t left) {
        if (left < list_size_) return 0;
        // The checked part first: most places in a ring are no heads.
        const auto start = bytes_at(at, checked_size);
        const auto count = numbers_.get(start, 2, 2), used = numbers_.get(start, 4, 4);
        // The first block info is no block's.
        if (count < 1 || list_head_size + count * block_info_size > list_size_ || used < list_size_ ||
            used > left || numbers_.get(start, 8, 4) != checksum(start, 8))
            return 0;
        const auto head = bytes_at(at, list_size_);
        std::uint64_t place = list_size_;
        for (std::uint64_t i = 1; i < count; ++i) {
            const auto info = static_cast<std::size_t>(list_head_size + i * block_info_size);
            const auto block = numbers_.get(head, info, 8), size = numbers_.get(head, info + 8, 4);
            if (size == 0 || size > most_image || size > used - place) break;
            const auto from = wrapped(at + place);
            place += size;
            // A block number of all ones is one that was given up.
            if (block > (1ull << 54)) continue;
            const auto target = block * sector_;
            if (target + size > std::uint64_t{g_.total_blocks} * g_.block_size) continue;
            sink_.image({g_.offset + target, start_ + from, bytes_at(from, size)});
        }
        sink_.end_of_transaction();
        return used;
    }

    const Source& source_;
    Geometry g_;
    const JournalSink& sink_;
    Numbers numbers_;
    std::uint64_t start_, end_ = 0, size_ = 0, list_size_ = 0, sector_ = 0;
};

}  // namespace

namespace {
constexpr std::uint32_t in_volume = 1;  ///< else it is on another device

std::optional<JournalInfoBlock> read_info(const Source& source, const Geometry& g, std::uint32_t block) {
    const auto at = g.offset + std::uint64_t{block} * g.block_size;
    return block < g.total_blocks ? source.read_structure<JournalInfoBlock>(at) : std::nullopt;
}
}  // namespace

void read_journal(const Source& source, const Geometry& g, std::uint32_t journal_info_block,
                  const JournalSink& sink) {
    const auto info = read_info(source, g, journal_info_block);
    if (!info) return sink.diagnostic("The journal info block cannot be read; the journal is not read.");
    if (info->flags.value() & in_volume) Ring(source, g, *info, sink).read();
}

std::optional<ByteRange> journal_said(const Source& source, const Geometry& g,
                                      std::uint32_t journal_info_block) {
    const auto info = journal_info_block ? read_info(source, g, journal_info_block) : std::nullopt;
    if (!info || !(info->flags.value() & in_volume)) return std::nullopt;
    const auto size = std::uint64_t{g.total_blocks} * g.block_size, at = info->offset.value();
    if (at >= size) return std::nullopt;
    return ByteRange{g.offset + at, std::min(info->size.value(), size - at)};
}

std::vector<ByteRange> journal_places(const Source& source, const Geometry& g,
                                      std::uint32_t journal_info_block) {
    const auto info = journal_info_block ? read_info(source, g, journal_info_block) : std::nullopt;
    if (!info || !(info->flags.value() & in_volume)) return {};
    const JournalSink nobody{[](JournalImage&&) {}, [] {}, [](std::string) {}};
    const auto place = Ring(source, g, *info, nobody).place();
    return place.empty() ? std::vector<ByteRange>() : std::vector{place};
}

}  // namespace undershelf::hfsplus
