#include "shelf/name_word.hpp"

#include "base/printable.hpp"
#include "base/text.hpp"

namespace undershelf {

namespace {

/// `text` without its first character.
std::string_view after_first(std::string_view text) {
    std::size_t at = 0;
    if (!text.empty()) next_character(text, at);
    return text.substr(at);
}

/// Does `text` begin at the unknown character?
bool begins_at(std::string_view name, std::size_t unknown, std::string_view text) {
    return unknown < name.size() && !text.empty() &&
           after_first(name.substr(unknown)).starts_with(after_first(text));
}

}  // namespace

NameWord name_word(std::string_view word) {
    NameWord out;
    out.how = word.find_first_of("*?/") == word.npos ? NameWord::How::holds : NameWord::How::pattern;
    if (word.size() > 1 && word.front() == '=') {
        out.how = NameWord::How::exact;
        word.remove_prefix(1);
    }
    out.on_path = word.find('/') != word.npos;
    if (out.on_path && word.size() > 1 && word.front() == '/') word.remove_prefix(1);
    out.text = word;
    return out;
}

bool passes(std::string_view name, NameWord::How how, std::string_view text, std::size_t unknown) {
    switch (how) {
        case NameWord::How::pattern:
            return matches_glob(name, text, unknown);
        case NameWord::How::holds:
            return name.find(text) != name.npos || begins_at(name, unknown, text);
        case NameWord::How::exact:
            if (name == text) return true;
            return unknown < name.size() && text.starts_with(name.substr(0, unknown)) &&
                   text.size() > unknown &&
                   after_first(name.substr(unknown)) == after_first(text.substr(unknown));
    }
    return false;
}

}  // namespace undershelf
