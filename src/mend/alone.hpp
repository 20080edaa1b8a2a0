#pragma once
// One file that lies in pieces, with no record of where: where it goes on is found by its own reader, cluster
// by cluster.

#include <functional>
#include <vector>

#include "content/reading.hpp"
#include "mend/clusters.hpp"

namespace undershelf {

/// What a search may cost. Trials are counted, never seconds, so that the same source gives the same result.
struct MendLimits {
    std::uint64_t trials = 20'000;    ///< layouts that are tried
    std::uint64_t clusters = 20'000;  ///< that are read for them, all together
    std::uint64_t reach = 2'000;      ///< candidates that are tried at one break
    std::uint64_t longest = 16'384;   ///< clusters that a file of unknown length may have
    std::uint64_t most = 1 << 20;     ///< and one of recorded length: longer ones are not tried
};

/// A content of which the first cluster is known, and what is after it is not.
struct BrokenContent {
    std::uint64_t start = 0;         ///< of its first cluster, in the source
    std::uint64_t size = 0;          ///< bytes; 0 for unknown
    const Format* format = nullptr;  ///< by which it is checked
};

struct MendedContent {
    std::vector<ByteRange> ranges;  ///< of the source, in the order of the content
    std::uint64_t size = 0;         ///< bytes of it
    Check check;                    ///< complete
    std::uint64_t close = 1;        ///< layouts that held up to their last cluster, this one with them
    std::uint64_t pieces() const { return ranges.size(); }
};

/// What was tried: layouts, and clusters that were read for them.
struct MendCost {
    std::uint64_t trials = 0, clusters = 0;
    MendCost& operator+=(const MendCost& more) {
        trials += more.trials;
        clusters += more.clusters;
        return *this;
    }
};

/// Checks a content that lies in these ranges, one after the other.
using CheckRanges =
    std::function<std::optional<Check>(const std::vector<ByteRange>& ranges, std::uint64_t size)>;

/// With a recorded length the format's check has to be fair at least. Without one it has to be strong, or any
/// where the content steps over what is taken, and then holds. Returns nothing if no layout of its clusters
/// holds to the end within the limits. `cost` is raised by what was tried.
std::optional<MendedContent> mend_alone(const Source& source, const BrokenContent& broken,
                                        const FreeClusters& free, const CheckRanges& check,
                                        const MendLimits& limits, const std::function<bool()>& stopped,
                                        MendCost& cost);

}  // namespace undershelf
