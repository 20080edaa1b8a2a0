#include "scan/outlook.hpp"

#include <chrono>
#include <filesystem>

#include "base/printable.hpp"
#include "scan/space_look.hpp"
#include "source/health.hpp"

namespace undershelf {

namespace {

/// Contents are checked so fast on two cores, bytes a second: about the mean over the formats.
constexpr double check_rate = 100e6;

/// How long reading all of the source would take, by a few MiB of it; no more than half a second is spent on
/// that.
std::optional<double> time_to_read(const Source& source) {
    using Clock = std::chrono::steady_clock;
    constexpr std::uint64_t at_a_time = 4 << 20, most = 64 << 20;
    const auto ranges = source.data_ranges();
    ByteVector bytes(at_a_time);
    std::uint64_t read = 0;
    const auto began = Clock::now();
    auto spent = std::chrono::duration<double>();
    for (const auto& r : ranges) {
        for (std::uint64_t at = 0; at < r.length && read < most && spent.count() < 0.5; at += at_a_time) {
            const auto n = std::min(at_a_time, r.length - at);
            source.read(r.offset + at, MutableBytes(bytes).first(static_cast<std::size_t>(n)));
            read += n;
            spent = Clock::now() - began;
        }
    }
    if (read == 0) return std::nullopt;
    return spent.count() * static_cast<double>(total_length(ranges)) / static_cast<double>(read);
}

/// Bytes of contents that a search would read to their end, by what was looked at.
double bytes_to_check(const SpaceLook& space) {
    if (space.looked == 0) return 0;
    return static_cast<double>(space.bytes) * static_cast<double>(space.data) /
           static_cast<double>(space.looked);
}

/// Every further reading may cost more of it: it is copied first.
bool is_failing_drive(const Source& source) {
    std::error_code ec;
    return !source.unreadable().empty() && std::filesystem::is_block_file(source.path(), ec);
}

}  // namespace

void note_layout(const Source& source, const SourceLayout& layout, ShelfWriter& shelf) {
    std::vector<ScanState::Place> bare, unread;
    for (const auto& r : layout.volumes) {
        if (!r.volume.readable) unread.push_back({{r.volume.offset, r.volume.size}, r.volume.file_system});
    }
    for (const auto& p : layout.bare_partitions())
        bare.push_back({{p.offset, p.size}, without_controls(p.type)});
    const auto drive = drive_health(source.path());
    const bool discards = drive && drive->takes_discards.value_or(false);
    const auto& now = shelf.state();
    if (now.bare_partitions == bare && now.unread_systems == unread && now.takes_discards == discards) return;
    shelf.change_state([&](ScanState& state) {
        state.bare_partitions = std::move(bare);
        state.unread_systems = std::move(unread);
        state.takes_discards = discards;
    });
}

void look_at_unclaimed(const Source& source, ShelfWriter& shelf, Progress& progress) {
    if (is_failing_drive(source)) return;
    std::vector<ByteRange> claimed;
    shelf.for_each_named([&](const NamedContent& c) { append_good_claims(c, claimed); });
    // Without its key there is nothing to find in it.
    for (const auto& s : shelf.state().unread_systems) {
        if (s.is_encrypted()) claimed.push_back(s.range);
    }
    const FreeSpace free(RangeSet(std::move(claimed)), source.size());
    const auto view = shelf.view();
    const auto space = look_at_space(source, free, Grids(view.volumes()), progress);
    const auto scan = view.last_scan();
    shelf.change_state([&](ScanState& state) {
        state.space = space;
        state.content_seconds.reset();
        if (space && scan && scan->sweep_seconds)
            state.content_seconds = 2 * *scan->sweep_seconds + bytes_to_check(*space) / check_rate;
    });
    shelf.commit();
}

void look_ahead(const Source& source, ShelfWriter& shelf, Progress& progress) {
    if (is_failing_drive(source)) return;
    if (const auto seconds = time_to_read(source)) shelf.set_sweep_estimate(*seconds);
    shelf.commit();
    look_at_unclaimed(source, shelf, progress);
}

void forget_outlook(ShelfWriter& shelf) {
    shelf.change_state([](ScanState& state) {
        state.space.reset();
        state.content_seconds.reset();
    });
}

}  // namespace undershelf
