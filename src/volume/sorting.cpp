#include "volume/sorting.hpp"

#include "base/text.hpp"

namespace undershelf {

Sorting sorting_of(std::string_view name, const Format* shown) {
    Sorting out;
    out.ext = extension_of(name);
    out.kind = kind_of_file(out.ext, shown);
    return out;
}

Sorting sorting_of(const Entry& entry, const Format* shown) {
    if (entry.is_dir) return {};
    if (entry.link) return {{}, Kind::link};
    return sorting_of(entry.name, shown);
}

}  // namespace undershelf
