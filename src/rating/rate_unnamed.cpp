// The part of the rating that is about contents that nothing names.

#include "rating/balance.hpp"

namespace undershelf {

namespace {

// That one ends where zeros begin; and where something else begins.
constexpr double unnamed_to_zeros = 0.7, unnamed_cut = 0.03;
constexpr double one_of_two_ends = 0.5;  ///< a zero after it may be its own: nothing tells which
constexpr double beginning_lost = 0.3;   ///< a text that begins in the middle of a line is one all the same
constexpr double unnamed_over_others = 0.5;  ///< what holds within it is a part of it

}  // namespace

/// What is recognised by its content alone: that it lies in one run, that its end is its end, and that it
/// begins where it seems to.
void Rater::weigh_unnamed(Subject& s, Balance& b) const {
    for (auto& e : s.evidence) {
        switch (e.fact) {
            case Fact::ends_itself:
                Balance::multiply(b.layout, e, around_.whole_finds.share(s.volume));
                break;
            case Fact::ends_in_zeros:
                Balance::multiply(b.layout, e, unnamed_to_zeros);
                break;
            case Fact::cut_off:
                Balance::multiply(b.layout, e, unnamed_cut);
                break;
            case Fact::loose_end:
                Balance::multiply(b.own, e, one_of_two_ends);
                break;
            case Fact::begins_within:
                Balance::multiply(b.own, e, beginning_lost);
                break;
            case Fact::others_within:
                Balance::multiply(b.own, e, unnamed_over_others);
                break;
            default:
                break;
        }
    }
}

}  // namespace undershelf
