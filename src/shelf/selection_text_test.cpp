#include "shelf/selection_text.hpp"

#include <gtest/gtest.h>

#include <functional>
#include <map>
#include <nlohmann/json.hpp>

#include "base/json_text.hpp"

namespace undershelf {

namespace {

using Change = std::function<void(Selection&)>;

std::shared_ptr<const KnownSums> sums(const char* sum) {
    return std::make_shared<KnownSums>(KnownSums{"known.txt", {std::string(64, *sum)}});
}

/// Each thing that can be chosen by, and another of its kind.
const std::map<std::string, Change>& changes() {
    static const std::map<std::string, Change> out{
        {"one number", [](Selection& s) { add_id(s.ids, 4); }},
        {"two numbers", [](Selection& s) { add_id(s.ids, 4), add_id(s.ids, 9); }},
        {"under", [](Selection& s) { s.under = {"Scripts"}; }},
        {"in", [](Selection& s) { s.in = {"Scripts"}; }},
        {"not under", [](Selection& s) { s.not_under = {"Scripts"}; }},
        {"name", [](Selection& s) { s.names = {"cue"}; }},
        {"two names",
         [](Selection& s) {
             s.names = {"cue", "act"};
         }},
        {"not name", [](Selection& s) { s.not_names = {"cue"}; }},
        {"ext", [](Selection& s) { s.exts = {"jpg"}; }},
        {"not ext", [](Selection& s) { s.not_exts = {"jpg"}; }},
        {"kind", [](Selection& s) { s.kinds = {Kind::picture}; }},
        {"other kind", [](Selection& s) { s.kinds = {Kind::video}; }},
        {"not kind", [](Selection& s) { s.not_kinds = {Kind::picture}; }},
        {"origin", [](Selection& s) { s.origins = {Origin::deleted}; }},
        {"grade", [](Selection& s) { s.grades = {{Grade::likely}}; }},
        {"grade or better",
         [](Selection& s) {
             s.grades = {{Grade::likely, true}};
         }},
        {"volume", [](Selection& s) { s.volumes = {2}; }},
        {"content", [](Selection& s) { s.contents = {"jpeg"}; }},
        {"checked", [](Selection& s) { s.checked = {Strength::fair}; }},
        {"size from", [](Selection& s) { s.size = {{.from = 9, .to = {}}}; }},
        {"size to", [](Selection& s) { s.size = {{.from = {}, .to = 9}}; }},
        {"modified", [](Selection& s) { s.modified = {{.from = 9, .to = {}}}; }},
        {"no date of a change", [](Selection& s) { s.modified = {{.from = {}, .to = {}, .absent = true}}; }},
        {"created", [](Selection& s) { s.created = {{.from = 9, .to = {}}}; }},
        {"accessed", [](Selection& s) { s.accessed = {{.from = 9, .to = {}}}; }},
        {"deleted", [](Selection& s) { s.deleted = {{.from = 9, .to = {}}}; }},
        {"lost", [](Selection& s) { s.lost = true; }},
        {"not live", [](Selection& s) { s.no_live = true; }},
        {"hidden", [](Selection& s) { s.hidden = true; }},
        {"marked", [](Selection& s) { s.marked = true; }},
        {"marked so", [](Selection& s) { s.marked = true, s.marks = {"posters"}; }},
        {"exported", [](Selection& s) { s.exported = true; }},
        {"not exported", [](Selection& s) { s.exported = false; }},
        {"unrated", [](Selection& s) { s.unrated = true; }},
        {"not gone", [](Selection& s) { s.no_gone = true; }},
        {"broken", [](Selection& s) { s.broken = true; }},
        {"mended", [](Selection& s) { s.mended = true; }},
        {"unread", [](Selection& s) { s.unread = true; }},
        {"no copies", [](Selection& s) { s.hide_copies = true; }},
        {"same as", [](Selection& s) { s.same_as = 4; }},
        {"no helpers", [](Selection& s) { s.no_helpers = true; }},
        {"folders", [](Selection& s) { s.folders_only = true; }},
        {"capitals count", [](Selection& s) { s.match_case = true; }},
        {"containing", [](Selection& s) { s.containing = "lantern"; }},
        {"known", [](Selection& s) { s.known = sums("a"); }},
        {"other known", [](Selection& s) { s.known = sums("b"); }},
        {"not known", [](Selection& s) { s.not_known = sums("a"); }},
        {"with pairs", [](Selection& s) { s.with_pairs = true; }}};
    return out;
}

Selection with(const Change& change) {
    Selection out;
    change(out);
    return out;
}

}  // namespace

TEST(SelectionText, TellsEverySelectionFromEveryOther) {
    std::map<std::string, std::string> texts{{selection_text({}), "nothing"}};
    for (const auto& [what, change] : changes()) {
        const auto text = selection_text(with(change));
        EXPECT_EQ(text, selection_text(with(change))) << what;
        EXPECT_TRUE(json_in(text).is_object()) << text;
        const auto [it, fresh] = texts.emplace(text, what);
        EXPECT_TRUE(fresh) << what << " reads like " << it->second << ": " << text;
    }
}

TEST(SelectionText, WhateverIsChosenByIsNotEverything) {
    EXPECT_TRUE(Selection().selects_all());
    for (const auto& [what, change] : changes()) {
        const auto s = with(change);
        // By itself this chooses nothing.
        if (what == "capitals count" || what == "no helpers") {
            EXPECT_TRUE(s.selects_all()) << what;
            continue;
        }
        EXPECT_FALSE(s.selects_all()) << what;
        EXPECT_TRUE(s.needs_a_look() || !where_clause(s).text.empty()) << what;
    }
}

}  // namespace undershelf
