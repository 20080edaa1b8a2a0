#pragma once
// Lists of words in one text, with spaces between them.

#include <algorithm>
#include <string_view>

namespace undershelf {

template <class Visit>
void for_each_word(std::string_view list, const Visit& visit) {
    for (std::size_t at = 0; at < list.size();) {
        const auto end = std::min(list.find(' ', at), list.size());
        if (end > at) visit(list.substr(at, end - at));
        at = end + 1;
    }
}

}  // namespace undershelf
