#pragma once
// How likely a wrong cluster is to be noticed in a content that has structures strewn over it: it must cover
// one, or lie in what is decoded.

#include <algorithm>
#include <cstdint>

#include "content/format.hpp"

namespace undershelf::content {

class Density {
  public:
    /// A stretch of `bytes` that begins with a structure, or ends at one; nothing is known of what is
    /// between.
    void add(std::uint64_t bytes) {
        all_ += bytes;
        noticed_ += std::min(bytes, cluster);
    }
    /// Bytes that are decoded or summed.
    void add_decoded(std::uint64_t bytes) {
        all_ += bytes;
        noticed_ += bytes;
    }
    /// Bytes that are between no structures of their own.
    void add_unseen(std::uint64_t bytes) { all_ += bytes; }
    /// The share of clusters that would be noticed, were they another file's.
    double noticed() const {
        return all_ == 0 ? 1 : static_cast<double>(noticed_) / static_cast<double>(all_);
    }
    /// Fair where nearly all of them would: of files whose check passes although 4 KiB are another file's
    /// there are to be no more than two in a hundred. Cuts and lost tails are noticed always.
    Strength strength() const { return noticed() >= enough ? Strength::fair : Strength::weak; }

  private:
    static constexpr std::uint64_t cluster = 4096;  ///< bytes; the usual one
    static constexpr double enough = 0.98;
    std::uint64_t all_ = 0, noticed_ = 0;
};

}  // namespace undershelf::content
