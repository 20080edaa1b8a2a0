#include "scan/refresh.hpp"

#include <fmt/format.h>

#include "base/text.hpp"
#include "source/coverage_file.hpp"
#include "source/unreadable_list.hpp"

namespace undershelf {

namespace {

/// What the coverage of an image has in the image, without what is to count as unreadable.
RangeSet in_image(const std::string& image, const std::string& unreadable_list) {
    const auto coverage = coverage_beside(image);
    if (!coverage) return {};
    const auto left_out = unreadable_list.empty() ? RangeSet() : read_unreadable_list(unreadable_list);
    std::vector<ByteRange> out;
    for (const auto& s : read_coverage_file(*coverage).coverage.stretches()) {
        if (!is_in_image(s.state)) continue;
        for (const auto& r : left_out.gaps_within(s.range)) out.push_back(r);
    }
    return RangeSet(std::move(out));
}

}  // namespace

Refresh::Refresh(const Source& source, ShelfWriter& shelf, const std::string& unreadable_list)
    : source_(source), shelf_(shelf) {
    auto gained = shelf.state().gained.ranges();
    if (const auto before = shelf.view().unreadable(); !before.empty()) {
        const auto now = in_image(source.path(), unreadable_list);
        for (const auto& r : before.ranges()) {
            for (const auto& part : now.within(r)) gained.push_back(part);
        }
    }
    gained_ = RangeSet(std::move(gained));
}

void Refresh::begin() {
    shelf_.change_state([&](ScanState& state) { state.gained = gained_; });
    shelf_.set_unreadable(source_);
    shelf_.set_samples(sample_source(source_));
    shelf_.read_present_again();
    shelf_.commit();
}

void Refresh::end() {
    if (const auto marks = shelf_.unmark_set_aside())
        shelf_.add_diagnostic(
            0, fmt::format("{} marked entries no longer exist; their marks were removed.", grouped(marks)));
    shelf_.change_state([](ScanState& state) { state.gained = {}; });
    shelf_.commit();
}

}  // namespace undershelf
