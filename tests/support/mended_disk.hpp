#pragma once
// A small disk of clusters for tests of mending: contents are dealt to clusters, all others are noise.

#include "mend/deal.hpp"
#include "support/format_cases.hpp"
#include "support/memory_content.hpp"
#include "support/memory_device.hpp"

namespace undershelf::test {

class MendedDisk {
  public:
    static constexpr std::uint32_t step = 512;

    explicit MendedDisk(std::size_t clusters) : bytes_(clusters * step) {
        auto random = random_numbers(3);
        for (auto& b : bytes_) b = static_cast<std::uint8_t>(random());
    }
    /// Cluster by cluster, zeros after its end.
    void put(const ByteVector& content, const std::vector<std::size_t>& clusters) {
        for (std::size_t i = 0; i < clusters.size(); ++i) {
            const auto from = std::min(content.size(), i * step),
                       n = std::min<std::size_t>(step, content.size() - from);
            auto* at = &bytes_[clusters[i] * step];
            std::fill_n(at, step, std::uint8_t{0});
            std::copy_n(content.begin() + static_cast<std::ptrdiff_t>(from), n, at);
        }
    }
    std::optional<MendedContent> mended(const BrokenContent& broken, const RangeSet& taken = {},
                                        const MendLimits& limits = {}) {
        const auto source = memory_source(bytes_);
        const FreeClusters free(0, step, {0, bytes_.size()}, taken);
        return mend_alone(
            *source, broken, free, check(), limits, [] { return false; }, cost);
    }
    std::vector<std::vector<std::size_t>> groups(const std::vector<DealtFile>& files,
                                                 const RangeSet& taken = {}) const {
        return files_in_turns(files, FreeClusters(0, step, {0, bytes_.size()}, taken));
    }
    std::optional<DealtHand> dealt(const std::vector<DealtFile>& files, bool together = true,
                                   const RangeSet& taken = {}, const MendLimits& limits = {}) {
        const FreeClusters free(0, step, {0, bytes_.size()}, taken);
        return deal_out(
            files, free, check(), together, limits, [] { return false; }, cost);
    }

    MendCost cost;

  private:
    CheckRanges check() const {
        return [this](const std::vector<ByteRange>& ranges, std::uint64_t size) {
            ByteVector all;
            for (const auto& r : ranges)
                all.insert(all.end(), bytes_.begin() + static_cast<std::ptrdiff_t>(r.offset),
                           bytes_.begin() + static_cast<std::ptrdiff_t>(r.end()));
            all.resize(static_cast<std::size_t>(size));
            MemoryContent content(std::move(all));
            return check_content(content, {});
        };
    }

    ByteVector bytes_;
};

inline std::size_t clusters_of(const ByteVector& content) {
    return (content.size() + MendedDisk::step - 1) / MendedDisk::step;
}
inline std::vector<std::size_t> clusters_in(const std::vector<ByteRange>& ranges) {
    std::vector<std::size_t> out;
    for (const auto& r : ranges)
        for (auto at = r.offset; at < r.end(); at += MendedDisk::step) out.push_back(at / MendedDisk::step);
    return out;
}

}  // namespace undershelf::test
