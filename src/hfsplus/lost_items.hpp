#pragma once
// What leftovers and the journal tell of items, put together by id: the states each was seen in.

#include <map>
#include <optional>
#include <vector>

#include "hfsplus/records.hpp"

namespace undershelf::hfsplus {

class LostItems {
  public:
    struct State {
        Item item;
        std::uint64_t order = 0;  ///< later ones were written later; 0: a leftover in the trees
    };
    struct Lost {
        std::vector<State> states;
        std::optional<Thread> thread;

        /// The state that says most: one with content, and of these the one changed last. Nothing without
        /// states.
        const State* newest() const;
        /// Parent and name by its newest state that has them, or by its thread.
        std::optional<std::pair<std::uint32_t, std::u16string>> place() const;
        bool is_dir() const;
    };

    void take(Item&& item, std::uint64_t order);
    void take(Thread&& thread);
    void take(BareName&& name);

    const std::map<std::uint32_t, Lost>& items() const { return items_; }
    const std::vector<BareName>& names() const { return names_; }
    /// True when there were more than are kept.
    bool full() const { return full_; }

  private:
    Lost* slot(std::uint32_t id);

    std::map<std::uint32_t, Lost> items_;
    std::vector<BareName> names_;
    std::size_t states_ = 0;  ///< of all items
    bool full_ = false;
};

}  // namespace undershelf::hfsplus
