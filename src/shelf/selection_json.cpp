#include "shelf/selection_json.hpp"

#include <nlohmann/json.hpp>

#include "base/sha256.hpp"
#include "volume/words.hpp"

using nlohmann::ordered_json;

namespace undershelf {

namespace {

template <class Value>
ordered_json range_of(const Between<Value>& range) {
    if (range.absent) return "none";
    return {range.from ? ordered_json(*range.from) : ordered_json(nullptr),
            range.to ? ordered_json(*range.to) : ordered_json(nullptr)};
}

template <class Items, class Word>
ordered_json words_of(const Items& items, const Word& word_for) {
    auto out = ordered_json::array();
    for (const auto& item : items) out.push_back(word_for(item));
    return out;
}

/// Numbers as they may be said; of very many only how many, and what tells them from others.
ordered_json numbers_of(const IdSet& ids) {
    constexpr std::size_t most = 1000;
    std::string all;
    auto out = ordered_json::array();
    for (const auto& r : ids.ranges()) {
        out.push_back(r.length == 1
                          ? ordered_json(r.offset)
                          : ordered_json(std::to_string(r.offset) + "-" + std::to_string(r.end() - 1)));
        all += out.back().dump() + "\n";
    }
    if (out.size() <= most) return out;
    return {{"numbers", ids.bytes()}, {"sha256", sha256_of(all)}};
}

ordered_json sums_of(const KnownSums& known) {
    std::string all;
    for (const auto& sum : known.sums) all += sum + "\n";
    return {{"sums", known.sums.size()}, {"sha256", sha256_of(all)}};
}

}  // namespace

ordered_json selection_json(const Selection& s) {
    ordered_json j = ordered_json::object();
    const auto list = [&](const char* name, const auto& items, const auto& word_for) {
        if (!items.empty()) j[name] = words_of(items, word_for);
    };
    const auto range = [&](const char* name, const auto& value) {
        if (value) j[name] = range_of(*value);
    };
    const auto flag = [&](const char* name, bool set) {
        if (set) j[name] = true;
    };
    const auto same = [](const auto& x) { return x; };
    if (!s.ids.empty()) j["id"] = numbers_of(s.ids);
    list("under", s.under, same);
    list("in", s.in, same);
    list("not-under", s.not_under, same);
    list("name", s.names, same);
    list("ext", s.exts, same);
    list("not-name", s.not_names, same);
    list("not-ext", s.not_exts, same);
    list("kind", s.kinds, [](Kind k) { return std::string(word(k)); });
    list("not-kind", s.not_kinds, [](Kind k) { return std::string(word(k)); });
    list("origin", s.origins, [](Origin o) { return std::string(word(o)); });
    list("grade", s.grades,
         [](const GradeChoice& g) { return std::string(word(g.grade)) + (g.or_better ? "+" : ""); });
    list("volume", s.volumes, same);
    list("content", s.contents, same);
    list("checked", s.checked, [](Strength c) { return std::string(word(c)); });
    range("size", s.size);
    range("modified", s.modified);
    range("created", s.created);
    range("accessed", s.accessed);
    range("deleted", s.deleted);
    flag("hidden", s.hidden);
    flag("lost", s.lost);
    flag("no-live", s.no_live);
    flag("marked", s.marked && s.marks.empty());
    list("marks", s.marks, same);
    flag("exported", s.exported == true);
    flag("not-exported", s.exported == false);
    flag("hide-copies", s.hide_copies);
    flag("no-helpers", s.no_helpers);
    flag("unrated", s.unrated);
    flag("no-gone", s.no_gone);
    flag("broken", s.broken);
    flag("unread", s.unread);
    flag("folders-only", s.folders_only);
    flag("match-case", s.match_case);
    if (s.same_as) j["same-as"] = *s.same_as;
    if (!s.containing.empty()) j["containing"] = s.containing;
    if (s.known) j["sha256-from"] = sums_of(*s.known);
    if (s.not_known) j["not-sha256-from"] = sums_of(*s.not_known);
    flag("with-pairs", s.with_pairs);
    return j;
}

}  // namespace undershelf
