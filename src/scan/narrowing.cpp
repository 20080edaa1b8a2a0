#include "scan/narrowing.hpp"

#include <algorithm>

#include "base/text.hpp"

namespace undershelf {

bool Narrowing::wants(const Format& format) const {
    const auto listed = [](const auto& list, const auto& fits) {
        return list.empty() || std::any_of(list.begin(), list.end(), fits);
    };
    return listed(kinds, [&](Kind k) { return k == format.kind; }) &&
           listed(exts, [&](const std::string& ext) { return promises(ext, format); }) &&
           listed(this->formats, [&](const std::string& word) { return word == format.word; });
}

bool Narrowing::may_want(const Format& start) const {
    const auto all = undershelf::formats();
    return std::any_of(all.begin(), all.end(),
                       [&](const Format& f) { return f.family == start.family && wants(f); });
}

bool Narrowing::may_want_name(std::string_view ext) const {
    bool promised = false;
    for (const auto& f : undershelf::formats()) {
        if (!promises(ext, f)) continue;
        if (wants(f)) return true;
        promised = true;
    }
    return !promised;
}

bool Narrowing::wants_name(std::string_view ext) const {
    const auto is_in = [](const auto& list, const auto& value) {
        return list.empty() || std::find(list.begin(), list.end(), value) != list.end();
    };
    if (!is_in(exts, ext) || !is_in(kinds, kind_of_file(ext))) return false;
    return formats.empty() || std::any_of(formats.begin(), formats.end(), [&](const std::string& word) {
               const auto* f = format_named(word);
               return f && promises(ext, *f);
           });
}

bool Narrowing::within(std::string_view words) const {
    const auto all = undershelf::formats();
    return std::all_of(all.begin(), all.end(),
                       [&](const Format& f) { return !wants(f) || lists_word(words, f.word); });
}

Narrowing Narrowing::joined(std::string_view words) const {
    Narrowing out;
    bool all = true;
    for (const auto& f : undershelf::formats()) {
        const bool wanted = wants(f) || lists_word(words, f.word);
        if (wanted) out.formats.emplace_back(f.word);
        all &= wanted;
    }
    if (all) out.formats.clear();
    return out;
}

std::string Narrowing::words() const {
    std::string out = " ";
    for (const auto& f : undershelf::formats()) {
        if (wants(f)) out += std::string(f.word) + " ";
    }
    return out;
}

}  // namespace undershelf
