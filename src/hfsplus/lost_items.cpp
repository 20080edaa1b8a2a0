#include "hfsplus/lost_items.hpp"

#include <algorithm>
#include <tuple>

namespace undershelf::hfsplus {

namespace {
// A hostile catalogue must not fill the memory; a state takes about 400 bytes.
constexpr std::size_t most_items = 1 << 19, most_all_states = 1 << 19, most_states = 16;

bool same_state(const Item& a, const Item& b) {
    return a.parent == b.parent && a.has_key == b.has_key && a.name == b.name && a.modified == b.modified &&
           a.changed == b.changed && a.created == b.created && a.data == b.data && a.resource == b.resource;
}

auto rank(const LostItems::State& s) {
    return std::tuple(s.item.has_content(), s.item.changed, s.item.modified, s.order);
}
}  // namespace

const LostItems::State* LostItems::Lost::newest() const {
    const auto it = std::max_element(states.begin(), states.end(),
                                     [](const State& a, const State& b) { return rank(a) < rank(b); });
    return it == states.end() ? nullptr : &*it;
}

std::optional<std::pair<std::uint32_t, std::u16string>> LostItems::Lost::place() const {
    const State* best = nullptr;
    for (const auto& s : states) {
        if (s.item.has_key && (!best || rank(*best) < rank(s))) best = &s;
    }
    if (best) return std::pair(best->item.parent, best->item.name);
    if (thread) return std::pair(thread->parent, thread->name);
    return std::nullopt;
}

bool LostItems::Lost::is_dir() const {
    const auto* state = newest();
    return state ? state->item.is_dir : thread && thread->is_dir;
}

LostItems::Lost* LostItems::slot(std::uint32_t id) {
    if (items_.size() >= most_items && !items_.count(id)) {
        full_ = true;
        return nullptr;
    }
    return &items_[id];
}

void LostItems::take(Item&& item, std::uint64_t order) {
    auto* lost = slot(item.id);
    if (!lost) return;
    for (auto& s : lost->states) {
        if (same_state(s.item, item)) {
            s.order = std::max(s.order, order);
            return;
        }
    }
    if (lost->states.size() < most_states) {
        if (++states_ > most_all_states) {
            full_ = true;
            return;
        }
        lost->states.push_back({std::move(item), order});
        return;
    }
    const auto least = std::min_element(lost->states.begin(), lost->states.end(),
                                        [](const State& a, const State& b) { return rank(a) < rank(b); });
    State state{std::move(item), order};
    if (rank(*least) < rank(state)) *least = std::move(state);
}

void LostItems::take(Thread&& thread) {
    if (auto* lost = slot(thread.id)) lost->thread = std::move(thread);
}

void LostItems::take(BareName&& name) {
    if (names_.size() >= most_items) {
        full_ = true;
        return;
    }
    names_.push_back(std::move(name));
}

}  // namespace undershelf::hfsplus
