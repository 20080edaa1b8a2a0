#include "shelf/selection_text.hpp"

#include <fmt/format.h>

#include <array>
#include <utility>

#include "base/json_line.hpp"
#include "base/sha256.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

/// Numbers as they may be said; of very many only how many, and what tells them from others.
void put_numbers(JsonLine& out, const char* key, const IdSet& ids) {
    constexpr std::size_t most = 1000;
    if (ids.ranges().size() <= most) {
        out.list(key, ids.ranges(), [&](const ByteRange& r) {
            r.length == 1 ? out.value(r.offset) : out.value(fmt::format("{}-{}", r.offset, r.end() - 1));
        });
        return;
    }
    std::string all;
    for (const auto& r : ids.ranges())
        all +=
            r.length == 1 ? fmt::format("{}\n", r.offset) : fmt::format("\"{}-{}\"\n", r.offset, r.end() - 1);
    out.object(key, [&](JsonLine& inner) {
        inner.number("numbers", ids.bytes());
        inner.text("sha256", sha256_of(all));
    });
}

void put_sums(JsonLine& out, const char* key, const KnownSums& known) {
    std::string all;
    for (const auto& sum : known.sums) all += sum + "\n";
    out.object(key, [&](JsonLine& inner) {
        inner.number("sums", known.sums.size());
        inner.text("sha256", sha256_of(all));
    });
}

template <class Value>
void put_range(JsonLine& out, const char* key, const Between<Value>& range) {
    if (range.absent) return out.text(key, "none");
    out.list(key, std::array{range.from, range.to},
             [&](const auto& end) { end ? out.value(*end) : out.value(nullptr); });
}

}  // namespace

std::string selection_text(const Selection& s) {
    JsonLine out;
    const auto list = [&](const char* name, const auto& items, const auto& word_for) {
        if (!items.empty()) out.list(name, items, [&](const auto& item) { out.value(word_for(item)); });
    };
    const auto range = [&](const char* name, const auto& value) {
        if (value) put_range(out, name, *value);
    };
    const auto flag = [&](const char* name, bool set) {
        if (set) out.flag(name, true);
    };
    const auto same = [](const auto& x) { return x; };
    if (!s.ids.empty()) put_numbers(out, "id", s.ids);
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
    flag("mended", s.mended);
    flag("unread", s.unread);
    flag("folders-only", s.folders_only);
    flag("match-case", s.match_case);
    if (s.same_as) out.id("same-as", *s.same_as);
    if (!s.containing.empty()) out.text("containing", s.containing);
    if (s.known) put_sums(out, "sha256-from", *s.known);
    if (s.not_known) put_sums(out, "not-sha256-from", *s.not_known);
    flag("with-pairs", s.with_pairs);
    return std::move(out).take();
}

}  // namespace undershelf
