#include "answers/entry_number.hpp"

#include <fmt/format.h>

#include <charconv>

#include "base/error.hpp"

namespace undershelf {

ShelfEntry entry_from(const Shelf& shelf, const std::string& id) {
    std::int64_t number = 0;
    const auto [end, ec] = std::from_chars(id.data(), id.data() + id.size(), number);
    if (ec != std::errc{} || end != id.data() + id.size())
        throw Error(Trouble::usage,
                    fmt::format("`{}` is not the number of an entry; `undershelf list {}` shows them.", id,
                                shelf.path()));
    const auto out = shelf.entry(number);
    if (const auto aside = out ? std::nullopt : shelf.set_aside(number)) {
        throw Error(
            Trouble::usage,
            aside->merged_into
                ? fmt::format("Entry {} is now {} (former volume). Use that number.", number,
                              *aside->merged_into)
                : fmt::format("Entry {} no longer exists: a later scan found no evidence for it.", number));
    }
    if (!out)
        throw Error(Trouble::usage,
                    fmt::format("The shelf {} has no entry {}; `undershelf list {}` shows what it has.",
                                shelf.path(), number, shelf.path()));
    return *out;
}

}  // namespace undershelf
