#include "rating/slack.hpp"

#include <algorithm>
#include <array>

namespace undershelf {

namespace {
constexpr std::uint64_t sector = 512;      ///< bytes; larger ones are whole numbers of these
constexpr std::uint64_t least_behind = 8;  ///< bytes; fewer are zeros by chance
constexpr std::size_t looked_at_before = 16;
constexpr std::size_t most_of_a_family = 32, most_families = 1024;
constexpr std::size_t least_of_a_family = 4;  ///< whose ends tell something
constexpr const char* whole_volume = "*";     ///< no extension has it
}  // namespace

std::optional<FileEnd> file_end(const Source& source, const std::vector<Piece>& pieces, std::uint64_t size) {
    if (size == 0 || pieces.empty()) return std::nullopt;
    const auto& last = pieces.back();
    if (last.kind != PieceKind::stored || last.source > source.size() || last.offset >= size ||
        last.offset + last.length < size)
        return std::nullopt;
    const auto end = last.source + (size - last.offset);
    const auto behind = (sector - end % sector) % sector;
    const auto before = std::min<std::uint64_t>(looked_at_before, size - last.offset);
    if (behind < least_behind || end > source.size() || behind > source.size() - end) return std::nullopt;
    std::array<std::uint8_t, looked_at_before + sector> bytes;
    const auto all = MutableBytes(bytes).first(static_cast<std::size_t>(before + behind));
    if (!source.read(end - before, all).empty()) return std::nullopt;
    if (all_zero(all.first(static_cast<std::size_t>(before)))) return std::nullopt;
    return FileEnd{all_zero(all.subspan(static_cast<std::size_t>(before)))};
}

void SlackHabits::add(int volume, const std::string& ext, std::int64_t entry) {
    keep(volume, ext, entry);
    keep(volume, whole_volume, entry);
}

void SlackHabits::keep(int volume, const std::string& ext, std::int64_t entry) {
    auto it = families_.find({volume, ext});
    if (it == families_.end()) {
        if (families_.size() >= most_families) return;
        it = families_.emplace(std::pair(volume, ext), Family()).first;
    }
    if (it->second.entries.size() < most_of_a_family) it->second.entries.push_back(entry);
}

const SlackHabits::Answer* SlackHabits::look(int volume, const std::string& ext) {
    const auto it = families_.find({volume, ext});
    if (it == families_.end()) return nullptr;
    auto& family = it->second;
    if (!family.looked) {
        family.looked = true;
        for (const auto entry : family.entries) {
            const auto end = end_of_(entry);
            family.answer.files += end.has_value();
            family.answer.zeros += end && end->zeros_behind;
        }
    }
    return family.answer.files >= least_of_a_family ? &family.answer : nullptr;
}

SlackHabits::Answer SlackHabits::of(int volume, const std::string& ext) {
    if (const auto* own = look(volume, ext)) return *own;
    const auto* all = look(volume, whole_volume);
    return all ? *all : Answer();
}

}  // namespace undershelf
