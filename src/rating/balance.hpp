#pragma once
// The scales of the rating, for its own files alone.

#include <algorithm>

#include "rating/likelihoods.hpp"
#include "rating/rate.hpp"

namespace undershelf {

/// What is being weighed: two factors of the chance, and which bytes of the file are lost. Every change of a
/// factor is kept with the evidence it comes from, so that the product of all effects is the chance.
struct Rater::Balance {
    double layout = 1;  ///< P(the layout is right)
    double own = 1;     ///< P(every byte is still the file's own)
    /// The part of `own` that is about nobody having written over it unseen. What its bytes say is about this
    /// alone: they cannot settle whose of two known claims is right.
    double unseen = 1;
    std::vector<ByteRange> lost;
    std::vector<ByteRange> contested;
    bool not_copied = false;  ///< some bytes are to come yet; they are not lost
    double left_factor = 1;

    static void multiply(double& factor, Evidence& e, double by) {
        const auto product = std::min(1.0, factor * by);
        e.chance *= static_cast<float>(factor > 0 ? product / factor : by);
        factor = product;
    }
    /// New evidence on whether somebody wrote over it unseen: its probability becomes `p`.
    void settle_unseen(Evidence& e, double p) {
        multiply(own, e, p / unseen);
        unseen = p;
    }
};

}  // namespace undershelf
