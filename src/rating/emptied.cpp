#include "rating/emptied.hpp"

namespace undershelf {

namespace {
constexpr std::size_t most_files = 128;  ///< looked at on each volume
}

void Emptied::add(int volume, std::int64_t entry) {
    auto& files = volumes_[volume];
    ++files.seen;
    if (files.entries.size() < most_files) {
        files.entries.push_back(entry);
        return;
    }
    // Later ones take turns with earlier ones, so that those kept come from everywhere.
    if (files.seen % 7 == 0) files.entries[files.seen / 7 % most_files] = entry;
}

Emptied::Answer Emptied::of(int volume) {
    auto& files = volumes_[volume];
    if (!files.looked) {
        files.looked = true;
        for (const auto entry : files.entries) {
            const auto first = first_bytes_of_(entry);
            if (first.empty()) continue;
            ++files.answer.files;
            files.answer.zeros += all_zero(first);
        }
    }
    return files.answer;
}

}  // namespace undershelf
