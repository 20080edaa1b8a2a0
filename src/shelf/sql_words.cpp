#include "shelf/sql_words.hpp"

#include <utility>

#include "volume/model.hpp"

namespace undershelf {

namespace {
constexpr std::pair<std::string_view, int> words[] = {{"live", static_cast<int>(Origin::live)},
                                                      {"unnamed", static_cast<int>(Origin::unnamed)},
                                                      {"known", static_cast<int>(Layout::known)},
                                                      {"likely", static_cast<int>(Grade::likely)}};
}  // namespace

std::string worded(std::string_view sql) {
    std::string out;
    for (std::size_t at = 0; at < sql.size();) {
        const auto mark = sql.find('#', at);
        out += sql.substr(at, mark - at);
        if (mark == sql.npos) break;
        at = mark + 1;
        const auto word = sql.substr(at, sql.find_first_not_of("abcdefghijklmnopqrstuvwxyz", at) - at);
        const auto* known = std::begin(words);
        while (known != std::end(words) && known->first != word) ++known;
        if (known == std::end(words)) {
            out += '#';
        } else {
            out += std::to_string(known->second);
            at += word.size();
        }
    }
    return out;
}

}  // namespace undershelf
