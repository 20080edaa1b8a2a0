#pragma once
// How far the work is: one line on the terminal, nothing at all when standard error is no terminal; or lines
// of JSON.

#include <chrono>
#include <optional>
#include <string>

#include "base/progress.hpp"

namespace undershelf::cli {

/// One line that is drawn over, for people at a terminal; or a line of JSON every second, for programs.
enum class ProgressForm { line, json };

class ProgressLine final : public Progress {
  public:
    /// `bytes`: all amounts are bytes, and shown as sizes.
    explicit ProgressLine(bool bytes = false, ProgressForm form = ProgressForm::line);
    ~ProgressLine() override;
    void stage(std::string_view what) override;
    void at(std::uint64_t done, std::uint64_t total) override;
    void counts_bytes() override { bytes_ = true; }
    void found(std::uint64_t entries) override;
    void wanted(std::uint64_t files) override;
    void traces(std::uint64_t found) override;
    void trouble(std::uint64_t unreadable, std::uint64_t leapt) override;
    bool stopped() const override;
    /// A first Ctrl-C is answered by ending the stage that asks.
    bool enough() override;

  private:
    void draw(bool now = false);
    void say_json();
    void clear();

    bool json_ = false;

    bool bytes_, always_bytes_;
    int answered_ = 0;  ///< wishes to end that a stage has taken for itself
    bool shown_ = false;
    bool drawn_ = false;
    std::string stage_;
    std::uint64_t done_ = 0, total_ = 0, found_ = 0, wanted_ = 0, traces_ = 0, unreadable_ = 0, leapt_ = 0;
    std::optional<std::uint64_t>
        first_;  ///< done when the stage was first heard of: it may go on from earlier
    std::chrono::steady_clock::time_point began_, last_;
};

/// For work that is over at once as a rule: it says nothing, and ends when Ctrl-C is pressed.
class SilentProgress final : public Progress {
  public:
    bool stopped() const override;
};

}  // namespace undershelf::cli
