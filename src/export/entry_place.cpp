#include "export/entry_place.hpp"

#include <fmt/format.h>

#include "volume/words.hpp"

namespace undershelf {

std::string top_folder(const ShelfEntry& e, bool several_volumes) {
    switch (e.origin) {
        case Origin::live:
        case Origin::deleted: {
            std::string out(word(e.origin));
            return several_volumes && e.volume ? fmt::format("{}/volume-{}", out, *e.volume) : out;
        }
        case Origin::former:
            return fmt::format("former-{}", e.volume.value_or(0));
        case Origin::unnamed:
            break;  // their paths say so
    }
    return "unnamed";
}

std::string file_name(const ShelfEntry& e) {
    if (e.stream == resource_fork_stream) return "._" + e.shown_name();
    return e.stream.empty() ? e.shown_name() : e.shown_name() + "~" + e.stream;
}

}  // namespace undershelf
