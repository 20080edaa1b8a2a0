#pragma once
// A sink that keeps everything it is given.

#include <algorithm>
#include <map>

#include "base/text.hpp"
#include "volume/relayout.hpp"

namespace undershelf::test {

class Collector final : public EntrySink {
  public:
    Collector() : EntrySink(Budget(1 << 20, 1 << 30)) {}
    void entry(Entry&& e) override { entries.push_back(std::move(e)); }
    void evidence(const EntryKey& key, Evidence&& e) override { late.emplace_back(key, std::move(e)); }
    void lay_anew(const EntryKey& key, Relayout&& layout) override {
        for (auto& e : entries) {
            if (e.key != key) continue;
            e.pieces = pieces_in_ranges(e.pieces, layout.ranges);
            e.claims = std::move(layout.ranges);
            replace_layout_evidence(e.evidence, layout.evidence);
        }
    }
    void in_use(const ByteRange& r) override { used.push_back(r); }
    void diagnostic(std::string s) override { diagnostics.push_back(std::move(s)); }

    const Entry* find(const std::string& name) const {
        for (const auto& e : entries) {
            if (e.name == name) return &e;
        }
        return nullptr;
    }

    /// How many entries with this part of a name are in a folder; -1 where there is no such folder.
    std::ptrdiff_t count_in(const std::string& folder, const std::string& part) const {
        const auto* its = find(folder);
        if (!its) return -1;
        return std::count_if(entries.begin(), entries.end(), [&](const Entry& e) {
            return e.parent == its->key && e.name.find(part) != e.name.npos;
        });
    }

    /// The first earlier name that is told of an entry after it was handed over; empty for none.
    std::string old_name_of(const EntryKey& key) const {
        for (const auto& [k, e] : late) {
            if (k == key && e.fact == Fact::old_name) return e.text;
        }
        return {};
    }

    std::vector<Entry> entries;
    std::vector<std::pair<EntryKey, Evidence>> late;
    std::vector<ByteRange> used;
    std::vector<std::string> diagnostics;
};

inline bool has_fact(const Entry& e, Fact fact) {
    return undershelf::has_fact(e.evidence, fact);
}

}  // namespace undershelf::test
