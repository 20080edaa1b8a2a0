#include "shelf/selection_json.hpp"

#include <nlohmann/json.hpp>

#include "volume/words.hpp"

using nlohmann::ordered_json;

namespace undershelf {

namespace {

template <class Value>
ordered_json range_of(const Between<Value>& range) {
    return {range.from ? ordered_json(*range.from) : ordered_json(nullptr),
            range.to ? ordered_json(*range.to) : ordered_json(nullptr)};
}

template <class Items, class Word>
ordered_json words_of(const Items& items, const Word& word_for) {
    auto out = ordered_json::array();
    for (const auto& item : items) out.push_back(word_for(item));
    return out;
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
    list("id", s.ids, same);
    list("under", s.under, same);
    list("name", s.names, same);
    list("ext", s.exts, same);
    list("kind", s.kinds, [](Kind k) { return std::string(word(k)); });
    list("origin", s.origins, [](Origin o) { return std::string(word(o)); });
    list("grade", s.grades,
         [](const GradeChoice& g) { return std::string(word(g.grade)) + (g.or_better ? "+" : ""); });
    list("volume", s.volumes, same);
    list("content", s.contents, same);
    list("checked", s.checked, [](Strength c) { return std::string(word(c)); });
    range("size", s.size);
    range("modified", s.modified);
    range("created", s.created);
    range("deleted", s.deleted);
    flag("lost", s.lost);
    flag("no-live", s.no_live);
    flag("marked", s.marked);
    flag("hide-copies", s.hide_copies);
    flag("no-helpers", s.no_helpers);
    flag("unrated", s.unrated);
    flag("broken", s.broken);
    flag("unread", s.unread);
    flag("folders-only", s.folders_only);
    flag("match-case", s.match_case);
    if (s.same_as) j["same-as"] = *s.same_as;
    return j;
}

}  // namespace undershelf
