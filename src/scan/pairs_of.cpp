#include "scan/pairs_of.hpp"

#include <fmt/format.h>

#include <unordered_map>
#include <unordered_set>

#include "base/text.hpp"
#include "volume/pairs.hpp"

namespace undershelf {

namespace {

/// A name in the folder that people see it in.
std::string key_of(const ShelfEntry& e, std::string_view name) {
    return e.first_path.empty() ? fmt::format("{}\n{}", e.folder, name)
                                : fmt::format("{} {}\n{}", e.volume.value_or(0), e.shown_folder(), name);
}

struct Names {
    explicit Names(const ShelfEntry& e) : role(pair_role(e.ext)) {
        const auto name = folded(e.shown_name());
        whole = key_of(e, name);
        const auto dot = name.rfind('.');
        stem = key_of(e, dot == std::string::npos || dot == 0 ? name : name.substr(0, dot));
    }
    PairRole role;
    std::string whole, stem;
};

bool may_pair(const ShelfEntry& e) {
    return !e.is_dir && !e.link && e.stream.empty() && e.origin != Origin::unnamed;
}

}  // namespace

IdSet with_pairs(const Shelf& shelf, const Selection& selection) {
    std::vector<ByteRange> ids;
    const auto take = [&](const ShelfEntry& e) { ids.push_back({static_cast<std::uint64_t>(e.id), 1}); };
    std::unordered_map<std::string, unsigned> roles;  // by stem
    std::unordered_set<std::string> wholes, stems_of_sidecars;
    shelf.for_each(selection, {}, [&](const ShelfEntry& e) {
        take(e);
        if (!may_pair(e)) return true;
        const Names names(e);
        roles[names.stem] |= static_cast<unsigned>(names.role);
        wholes.insert(names.whole);
        if (names.role == PairRole::sidecar) stems_of_sidecars.insert(names.stem);
        return true;
    });
    if (ids.empty()) return {};
    Selection all;
    all.no_helpers = true;
    all.rated_only = selection.rated_only;
    all.no_gone = selection.no_gone;
    shelf.for_each(all, {}, [&](const ShelfEntry& e) {
        if (!may_pair(e)) return true;
        const Names names(e);
        const auto it = roles.find(names.stem);
        const bool belongs = (it != roles.end() && makes_pair(names.role, it->second)) ||
                             (names.role == PairRole::sidecar && wholes.contains(names.stem)) ||
                             stems_of_sidecars.contains(names.whole);
        if (belongs) take(e);
        return true;
    });
    return IdSet(std::move(ids));
}

}  // namespace undershelf
