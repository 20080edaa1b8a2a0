#include "scan/narrowing.hpp"

#include <algorithm>

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

std::string Narrowing::words() const {
    std::string out;
    for (const auto& f : undershelf::formats()) {
        if (wants(f)) out += (out.empty() ? "" : " ") + std::string(f.word);
    }
    return out;
}

}  // namespace undershelf
