#pragma once
// A drive in memory that fails as a simulation says and remembers what it was asked for.

#include <algorithm>
#include <random>

#include "source/simulated_device.hpp"
#include "support/memory_device.hpp"

namespace undershelf::test {

inline ByteVector random_bytes(std::size_t size, unsigned seed = 1) {
    std::mt19937 random(seed);
    ByteVector out(size);
    for (auto& b : out) b = static_cast<std::uint8_t>(random());
    return out;
}

/// Sectors of 512 bytes that fail, `share` of `size` bytes: each by itself, or in clumps of up to 600.
inline std::vector<SimulatedPlace> failing_places(std::uint64_t size, double share, bool clumps,
                                                  unsigned seed = 5) {
    std::mt19937 random(seed);
    std::vector<SimulatedPlace> out;
    const auto sectors = size / 512;
    for (std::uint64_t have = 0; have < static_cast<std::uint64_t>(share * static_cast<double>(sectors));) {
        const std::uint64_t length = clumps ? 20 + random() % 580 : 1;
        const auto from = random() % (sectors - length);
        out.push_back({{from * 512, length * 512}});
        have += length;
    }
    return out;
}

inline RangeSet ranges_of(const std::vector<SimulatedPlace>& places) {
    std::vector<ByteRange> out;
    for (const auto& p : places) out.push_back(p.range);
    return RangeSet(std::move(out));
}

class AskedDevice final : public ByteDevice {
  public:
    struct Read {
        ByteRange range;
        std::size_t got = 0;
    };
    AskedDevice(ByteVector bytes, Simulation simulation)
        : inner_(make_simulated_device(std::make_unique<MemoryDevice>(std::move(bytes)),
                                       std::move(simulation))) {}

    std::string path() const override { return "the drive"; }
    std::uint64_t size() const override { return inner_->size(); }
    std::uint32_t sector_size() const override { return inner_->sector_size(); }
    std::string changed() const override { return change; }
    bool read_at(std::uint64_t offset, MutableBytes out) const override {
        return read_some(offset, out) == out.size();
    }
    std::size_t read_some(std::uint64_t offset, MutableBytes out) const override {
        const auto got = inner_->read_some(offset, out);
        reads.push_back({{offset, out.size()}, got});
        return got;
    }

    /// How often a read that failed held one of `bad`, for the sector with the most.
    unsigned most_asked(const RangeSet& bad) const {
        std::vector<unsigned> asked(size() / 512);
        for (const auto& r : reads) {
            if (r.got == r.range.length) continue;
            for (auto at = r.range.offset + r.got; at < r.range.end(); at += 512)
                asked[at / 512] += bad.contains(at);
        }
        return *std::max_element(asked.begin(), asked.end());
    }
    /// Of the bytes that all reads brought, the share that the first half of them did.
    double share_of_first_half() const {
        std::uint64_t first = 0, all = 0;
        for (std::size_t i = 0; i < reads.size(); ++i) {
            all += reads[i].got;
            if (i < reads.size() / 2) first += reads[i].got;
        }
        return static_cast<double>(first) / static_cast<double>(all);
    }

    mutable std::vector<Read> reads;
    std::string change;

  private:
    std::unique_ptr<ByteDevice> inner_;
};

}  // namespace undershelf::test
