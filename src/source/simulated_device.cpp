#include "source/simulated_device.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <mutex>
#include <thread>
#include <unordered_map>

#include "base/error.hpp"
#include "source/csv_lines.hpp"

namespace undershelf {

namespace {

constexpr std::string_view behaviours =
    "`fail`, `fail N`, `slow MS`, `die after N reads`, `die after N bytes`";

/// The number between two words of a behaviour.
std::optional<std::uint64_t> number_between(std::string_view text, std::string_view before,
                                            std::string_view behind) {
    if (!text.starts_with(before) || !text.ends_with(behind)) return std::nullopt;
    if (text.size() < before.size() + behind.size()) return std::nullopt;
    return parse_bytes(text.substr(before.size(), text.size() - before.size() - behind.size()));
}

/// Places of one kind, found by where they are.
class PlaceIndex {
  public:
    void add(const SimulatedPlace& place) { places_.push_back(place); }
    void sort() {
        std::stable_sort(
            places_.begin(), places_.end(),
            [](const SimulatedPlace& a, const SimulatedPlace& b) { return a.range.offset < b.range.offset; });
        std::uint64_t reach = 0;
        for (const auto& p : places_) reaches_.push_back(reach = std::max(reach, p.range.end()));
    }
    /// The largest of what `value` says of the places that meet `range`; 0 for none.
    template <class Value>
    std::uint64_t most(const ByteRange& range, const Value& value) const {
        std::uint64_t out = 0;
        auto i = std::partition_point(places_.begin(), places_.end(),
                                      [&](const SimulatedPlace& p) { return p.range.offset < range.end(); }) -
                 places_.begin();
        while (i-- > 0 && reaches_[static_cast<std::size_t>(i)] > range.offset) {
            const auto& p = places_[static_cast<std::size_t>(i)];
            if (overlap(p.range, range)) out = std::max(out, value(p));
        }
        return out;
    }
    RangeSet ranges() const {
        std::vector<ByteRange> out;
        for (const auto& p : places_) out.push_back(p.range);
        return RangeSet(std::move(out));
    }

  private:
    std::vector<SimulatedPlace> places_;
    std::vector<std::uint64_t> reaches_;  ///< the furthest end of this place and those before it
};

class SimulatedDevice final : public ByteDevice {
  public:
    SimulatedDevice(std::unique_ptr<ByteDevice> inner, Simulation simulation)
        : inner_(std::move(inner)), simulation_(std::move(simulation)) {
        for (const auto& p : simulation_.places)
            (p.kind == SimulatedPlace::Kind::fails ? failing_ : slowing_).add(p);
        failing_.sort();
        slowing_.sort();
        fails_ = failing_.ranges();
    }

    std::string path() const override { return inner_->path(); }
    std::uint64_t size() const override { return inner_->size(); }
    std::uint32_t sector_size() const override { return inner_->sector_size(); }
    std::vector<Gap> gaps() const override { return inner_->gaps(); }
    std::string changed() const override { return inner_->changed(); }

    // A drive does not know where its zeros are: no data_ranges().

    bool read_at(std::uint64_t offset, MutableBytes out) const override {
        return read_some(offset, out) == out.size();
    }

    std::size_t read_some(std::uint64_t offset, MutableBytes out) const override {
        std::uint64_t delay = 0;
        auto readable = static_cast<std::uint64_t>(out.size());
        {
            const std::lock_guard lock(mutex_);
            if (reads_++ >= simulation_.dies_after_reads || bytes_ >= simulation_.dies_after_bytes) return 0;
            const ByteRange asked{offset, out.size()};
            delay = slowing_.most(asked, [](const SimulatedPlace& p) { return p.milliseconds; });
            if (fails_.touches(asked)) readable = until_failure(asked);
            bytes_ += readable;
        }
        if (delay) std::this_thread::sleep_for(std::chrono::milliseconds(delay));
        return inner_->read_some(offset, out.first(static_cast<std::size_t>(readable)));
    }

  private:
    /// Bytes up to the first sector of `asked` that fails now.
    std::uint64_t until_failure(const ByteRange& asked) const {
        const std::uint64_t sector = sector_size();
        for (const auto& bad : fails_.within(asked)) {
            for (auto at = bad.offset / sector * sector; at < bad.end(); at += sector) {
                const auto times =
                    failing_.most({at, sector}, [](const SimulatedPlace& p) { return p.times; });
                if (tries_[at]++ < times) return std::max(at, asked.offset) - asked.offset;
            }
        }
        return asked.length;
    }

    std::unique_ptr<ByteDevice> inner_;
    Simulation simulation_;
    PlaceIndex failing_, slowing_;
    RangeSet fails_;
    mutable std::mutex mutex_;
    mutable std::unordered_map<std::uint64_t, std::uint64_t> tries_;  ///< of sectors, by their offsets
    mutable std::uint64_t reads_ = 0, bytes_ = 0;
};

}  // namespace

Simulation read_simulation(const std::string& path) {
    const auto file = read_csv(path, "The simulation");
    const bool plain = file.header == "offset,length";
    if (!plain && file.header != "offset,length,behaviour")
        throw Error(
            Trouble::input,
            fmt::format(
                "{} is not a simulation of a drive: its first line must be `offset,length,behaviour`.",
                path));
    Simulation out;
    for (const auto& row : file.rows) {
        const auto range =
            row.fields.size() == (plain ? 2u : 3u) ? parse_range(row.fields[0], row.fields[1]) : std::nullopt;
        if (!range)
            refuse_row(path, row, fmt::format("is not `{}`, offset and length in bytes", file.header));
        const auto behaviour = plain ? std::string("fail") : row.fields[2];
        SimulatedPlace place{*range};
        if (const auto reads = number_between(behaviour, "die after ", " reads")) {
            out.dies_after_reads = *reads;
            continue;
        }
        if (const auto bytes = number_between(behaviour, "die after ", " bytes")) {
            out.dies_after_bytes = *bytes;
            continue;
        }
        if (const auto times = number_between(behaviour, "fail ", "")) {
            place.times = *times;
        } else if (const auto ms = number_between(behaviour, "slow ", "")) {
            place.kind = SimulatedPlace::Kind::slow;
            place.milliseconds = *ms;
        } else if (behaviour != "fail") {
            refuse_row(path, row, fmt::format("has none of the behaviours {}", behaviours));
        }
        out.places.push_back(place);
    }
    return out;
}

std::unique_ptr<ByteDevice> make_simulated_device(std::unique_ptr<ByteDevice> inner, Simulation simulation) {
    return std::make_unique<SimulatedDevice>(std::move(inner), std::move(simulation));
}

}  // namespace undershelf
