#include "exfat/root_folder.hpp"

#include <algorithm>

#include "base/text.hpp"
#include "exfat/geometry.hpp"

namespace undershelf::exfat {

namespace {
constexpr std::uint64_t most_bytes = 16 << 20, bytes_at_a_time = 64 << 10;
constexpr std::size_t slot_size = 32;
}  // namespace

RootFolder::RootFolder(const Source& source, const clusters::Grid& grid, const clusters::TableEntries& fat,
                       clusters::Cluster first)
    : source_(source) {
    const auto most = grid.clusters_for(most_bytes);
    ranges_ = grid.ranges(follow_fat(grid, fat, first, {most, most}).runs);
}

void RootFolder::visit(const std::function<bool(Bytes slot)>& go_on) const {
    auto left = most_bytes;
    for (const auto& range : ranges_) {
        for (std::uint64_t at = 0; at < range.length && left > 0;) {
            const auto length = std::min({bytes_at_a_time, range.length - at, left});
            const auto bytes = source_.read_vector({range.offset + at, length});
            for (std::size_t i = 0; i + slot_size <= bytes.size(); i += slot_size) {
                if (bytes[i] == 0 || !go_on(Bytes(bytes).subspan(i, slot_size))) return;
            }
            at += length;
            left -= length;
        }
    }
}

std::string RootFolder::label() const {
    const auto entry = find<LabelEntry>(type_label);
    if (!entry || entry->CharacterCount > 11) return {};
    std::u16string text;
    for (int i = 0; i < entry->CharacterCount; ++i)
        text += static_cast<char16_t>(entry->VolumeLabel[i].value());
    return utf8_from_utf16(text);
}

}  // namespace undershelf::exfat
