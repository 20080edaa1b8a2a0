#include "scan/content_starts.hpp"

namespace undershelf {

namespace {
constexpr std::uint32_t start_kind = 1;
}

std::vector<Trace> as_traces(const std::vector<ContentStart>& starts) {
    std::vector<Trace> out;
    out.reserve(starts.size());
    for (const auto& s : starts)
        out.push_back({start_kind, s.offset, s.print, s.breaks_a_line, {s.format.begin(), s.format.end()}});
    return out;
}

void for_each_start(const ShelfWriter& shelf, const std::function<void(const Place& start)>& visit) {
    const RangeSet nothing;
    shelf.traces(contents_family, nothing)->visit_all(start_kind, [&](const Trace& t) {
        const std::string word(t.data.begin(), t.data.end());
        if (const auto* format = format_named(word)) visit({t.offset, format, t.b != 0});
        return true;
    });
}

}  // namespace undershelf
