#pragma once
// How many traces are kept: a source made to annoy is nothing but traces, or millions of one.

#include <map>
#include <string>
#include <vector>

#include "volume/trace.hpp"

namespace undershelf {

class TraceLimits {
  public:
    using Kind = std::pair<std::string, std::uint32_t>;  ///< family and Trace::kind

    TraceLimits() : alike_(slots) {}
    /// True when the trace is to be kept; else it counts as left out.
    bool admit(const std::string& family, const Trace& trace);
    /// Counts one that was kept before.
    void count(const std::string& family, const Trace& trace);

    std::uint64_t kept() const { return kept_; }
    const std::map<Kind, std::uint64_t>& left_out() const { return left_out_; }
    void set_left_out(std::map<Kind, std::uint64_t> left_out) { left_out_ = std::move(left_out); }

  private:
    static constexpr std::size_t slots = 1 << 20;
    std::uint16_t& alike(const std::string& family, const Trace& trace);

    std::vector<std::uint16_t> alike_;  ///< how many say the same of themselves, by a print of that
    std::map<Kind, std::uint64_t> of_kind_, left_out_;
    std::uint64_t kept_ = 0;
};

}  // namespace undershelf
