#include "volume/settling.hpp"

#include <algorithm>

namespace undershelf {

const Volume* Settling::present_around(std::uint64_t place) const {
    for (const auto& life : present) {
        if (ByteRange{life.volume.offset, life.volume.size}.contains(place)) return &life.volume;
    }
    return nullptr;
}

bool Settling::nothing_over(const ByteRange& range) const {
    return std::none_of(present.begin(), present.end(), [&](const PresentLife& life) {
        return overlap({life.volume.offset, life.volume.size}, range).has_value();
    });
}

std::vector<std::uint64_t> Settling::usual_starts(std::span<const std::uint64_t> by_themselves) const {
    std::vector<std::uint64_t> out(by_themselves.begin(), by_themselves.end());
    for (const auto& life : present) out.push_back(life.volume.offset);
    return out;
}

Volume Settling::somewhere(std::string family, std::string found_by) const {
    Volume v;
    v.file_system = family;
    v.family = std::move(family);
    v.found_by = std::move(found_by);
    v.size = source.size();
    v.state = VolumeState::former;
    return v;
}

}  // namespace undershelf
