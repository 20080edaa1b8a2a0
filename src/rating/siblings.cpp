#include "rating/siblings.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/mix.hpp"
#include "content/signature.hpp"

namespace undershelf {

namespace {
constexpr std::size_t most_of_a_family = 16;
constexpr std::size_t most_families = 1024;
/// Shorter common starts come by chance; a few bytes of a longer one say all there is to say.
constexpr std::size_t least_start = 4, most_start = 64;
/// So many files must be alike before that is taken for their way.
constexpr std::size_t least_files = 3;

/// A format that more than statistics tell.
const Format* told_format(Bytes first) {
    const auto* format = format_of_start(first);
    return format && format->word != "text" ? format : nullptr;
}
}  // namespace

void Siblings::add(int volume, const std::string& ext, std::int64_t entry) {
    if (ext.empty() || has_expected_start(ext)) return;
    auto it = families_.find({volume, ext});
    if (it == families_.end()) {
        if (families_.size() >= most_families) return;
        it = families_.emplace(std::pair(volume, ext), Family()).first;
    }
    auto& family = it->second;
    ++family.added;
    if (family.entries.size() < most_of_a_family) {
        family.entries.push_back(entry);
        return;
    }
    // Each of all that were added is kept with the same likelihood, and the same ones each time (algorithm
    // R).
    const auto place = mixed(family.added) % family.added;
    if (place < most_of_a_family) family.entries[static_cast<std::size_t>(place)] = entry;
}

void Siblings::look(Family& family) const {
    family.looked = true;
    for (const auto entry : family.entries) {
        const auto first = first_bytes_of_(entry);
        if (first.empty() || all_zero(first)) continue;
        const auto* format = told_format(first);
        family.format = family.files == 0 || family.format == format ? format : nullptr;
        if (family.files == 0)
            family.start.assign(first.begin(), first.begin() + static_cast<std::ptrdiff_t>(
                                                                   std::min(first.size(), most_start)));
        const auto same = std::mismatch(family.start.begin(), family.start.end(), first.begin(), first.end());
        family.start.erase(same.first, family.start.end());
        ++family.files;
        family.texts += is_text_start(first);
    }
}

Siblings::Answer Siblings::compare(int volume, const std::string& ext, Bytes first) {
    const auto it = families_.find({volume, ext});
    if (it == families_.end() || first.empty()) return {};
    auto& family = it->second;
    if (!family.looked) look(family);
    if (family.files < least_files) return {};
    // Files of one format may begin with other bytes.
    if (family.format) {
        const bool same = told_format(first) == family.format;
        return {same ? Fit::same_start : Fit::differs, family.files,
                fmt::format("the mark of a format: {}", family.format->name)};
    }
    if (family.start.size() >= least_start && first.size() >= least_start) {
        const auto n = std::min(first.size(), family.start.size());
        const bool same =
            std::equal(first.begin(), first.begin() + static_cast<std::ptrdiff_t>(n), family.start.begin());
        return {same ? Fit::same_start : Fit::differs, family.files, "the same first bytes"};
    }
    if (family.texts != 0 && family.texts != family.files) return {};
    const bool texts = family.texts == family.files;
    return {is_text_start(first) == texts ? Fit::looks_alike : Fit::differs, family.files,
            texts ? "text" : "binary data"};
}

}  // namespace undershelf
