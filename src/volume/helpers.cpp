#include "volume/helpers.hpp"

#include <algorithm>
#include <string_view>

#include "base/text.hpp"

namespace undershelf {

namespace {
/// Without case. `ehthumbs` are Windows Media Center's.
constexpr std::string_view viewers_files[] = {".ds_store", "thumbs.db", "ehthumbs.db", "ehthumbs_vista.db",
                                              "desktop.ini"};
/// Longer than any of them; nothing else need be folded.
constexpr std::size_t most_bytes = 32;
}  // namespace

bool serves_a_viewer(const Entry& entry) {
    if (entry.is_dir || entry.name_certainty == NameCertainty::made_up) return false;
    if (entry.name.size() > 2 && entry.name.starts_with("._")) return true;
    if (entry.name.size() > most_bytes) return false;
    const auto name = folded(entry.name);
    const bool any_letter = entry.name_certainty == NameCertainty::first_letter_unknown;
    return std::any_of(std::begin(viewers_files), std::end(viewers_files), [&](std::string_view known) {
        return name == known || (any_letter && name.size() == known.size() &&
                                 std::string_view(name).substr(1) == known.substr(1));
    });
}

}  // namespace undershelf
