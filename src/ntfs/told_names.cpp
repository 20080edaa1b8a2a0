#include "ntfs/told_names.hpp"

#include <algorithm>

namespace undershelf::ntfs {

NamePrint name_print(std::uint64_t folder, const Name& name) {
    const auto undated = std::hash<std::u16string>()(name.name) ^ (folder * 0x9E3779B97F4A7C15ull);
    const auto time = name.created ? static_cast<std::uint64_t>(name.created->ticks) : 0;
    return {undated ^ (time * 0xBF58476D1CE4E5B9ull), undated};
}

void ToldNames::add_recorded(const NamePrint& print) {
    if (!dated_.empty() && dated_.back() == print.dated) return;
    dated_.push_back(print.dated);
    undated_.push_back(print.undated);
    sorted_ = false;
}

bool ToldNames::has_recorded(const NamePrint& print, bool is_dated) {
    // Most volumes have few leftovers, many have none that need asking.
    if (!sorted_) {
        std::sort(dated_.begin(), dated_.end());
        std::sort(undated_.begin(), undated_.end());
        sorted_ = true;
    }
    return is_dated ? std::binary_search(dated_.begin(), dated_.end(), print.dated)
                    : std::binary_search(undated_.begin(), undated_.end(), print.undated);
}

bool ToldNames::add(const NamePrint& print, bool is_dated) {
    if (has_recorded(print, is_dated)) return false;
    if (!is_dated && other_undated_.count(print.undated)) return false;
    other_undated_.insert(print.undated);
    return other_dated_.insert(print.dated).second;
}

}  // namespace undershelf::ntfs
