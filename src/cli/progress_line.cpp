#include "cli/progress_line.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cstdio>
#include <nlohmann/json.hpp>

#include "base/json_text.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"

namespace undershelf::cli {

namespace {
constexpr std::chrono::milliseconds between_drawings{100}, between_lines{1000};
}

ProgressLine::ProgressLine(bool bytes, ProgressForm form)
    : json_(form == ProgressForm::json),
      bytes_(bytes),
      always_bytes_(bytes),
      shown_(json_ || ::isatty(STDERR_FILENO)),
      began_(std::chrono::steady_clock::now()),
      last_(began_) {}
ProgressLine::~ProgressLine() {
    clear();
}

void ProgressLine::stage(std::string_view what) {
    stage_ = what;
    bytes_ = always_bytes_;
    done_ = total_ = traces_ = 0;
    first_.reset();
    began_ = std::chrono::steady_clock::now();
    draw(true);
}

void ProgressLine::at(std::uint64_t done, std::uint64_t total) {
    if (!first_) first_ = done;
    done_ = done;
    total_ = total;
    draw();
}

void ProgressLine::found(std::uint64_t entries) {
    found_ = entries;
    draw();
}

void ProgressLine::wanted(std::uint64_t files) {
    wanted_ = files;
    draw();
}

void ProgressLine::traces(std::uint64_t found) {
    traces_ = found;
    draw();
}

void ProgressLine::trouble(std::uint64_t unreadable, std::uint64_t leapt) {
    unreadable_ = unreadable;
    leapt_ = leapt;
    draw();
}

bool SilentProgress::stopped() const {
    return stop_flag().load() > 0;
}

bool ProgressLine::stopped() const {
    return stop_flag().load() > answered_;
}

bool ProgressLine::enough() {
    const auto wishes = stop_flag().load();
    if (wishes == 1) answered_ = 1;
    return wishes > 0;
}

void ProgressLine::draw(bool now) {
    if (!shown_) return;
    const auto time = std::chrono::steady_clock::now();
    if (!now && time - last_ < (json_ ? between_lines : between_drawings)) return;
    last_ = time;
    if (json_) {
        say_json();
        return;
    }
    const double seconds = std::chrono::duration<double>(time - began_).count();
    auto line = stage_;
    if (total_)
        line += fmt::format("  {:3.0f} %", 100.0 * static_cast<double>(done_) / static_cast<double>(total_));
    if (bytes_ && done_ && total_) line += fmt::format("  {} of {}", human_size(done_), human_size(total_));
    const auto now_done = first_ ? done_ - std::min(done_, *first_) : 0;
    if (now_done && seconds > 0.5) {
        const auto rate = static_cast<double>(now_done) / seconds;
        const auto shown = static_cast<std::uint64_t>(rate);
        line += bytes_ ? fmt::format("  {}/s", human_size(shown)) : fmt::format("  {}/s", grouped(shown));
        if (bytes_ && total_ > done_ && seconds > 2)
            line += fmt::format("  {} left", human_time(static_cast<double>(total_ - done_) / rate));
    }
    if (unreadable_) line += fmt::format("  {} unreadable", human_size(unreadable_));
    if (leapt_) line += fmt::format("  {} skipped", human_size(leapt_));
    if (wanted_) line += fmt::format("  {} wanted", grouped(wanted_));
    if (traces_) line += fmt::format("  {}", counted(traces_, "trace", "traces"));
    if (found_) line += fmt::format("  {}", counted(found_, "entry", "entries"));
    note("\r\033[K{}", line);
    std::fflush(stderr);
    drawn_ = true;
}

void ProgressLine::say_json() {
    nlohmann::ordered_json line{{"stage", stage_}, {"done", done_}, {"total", total_}, {"bytes", bytes_}};
    const auto add = [&](const char* name, std::uint64_t value) {
        if (value) line[name] = value;
    };
    add("entries", found_);
    add("wanted", wanted_);
    add("traces", traces_);
    add("unreadable", unreadable_);
    add("skipped", leapt_);
    note("{}\n", json_text(line));
}

void ProgressLine::clear() {
    if (!drawn_) return;
    note("\r\033[K");
    std::fflush(stderr);
    drawn_ = false;
}

}  // namespace undershelf::cli
