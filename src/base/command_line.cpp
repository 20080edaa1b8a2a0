#include "base/command_line.hpp"

#include <algorithm>
#include <cctype>
#include <string_view>

namespace undershelf {

namespace {

bool is_plain_word(const std::string& word) {
    return !word.empty() && std::all_of(word.begin(), word.end(), [](unsigned char c) {
        return std::isalnum(c) ||
               std::string_view("%+,-./:=@_").find(static_cast<char>(c)) != std::string_view::npos ||
               c >= 0x80;
    });
}

/// In single quotes, a quote among it as the shell takes it.
std::string quoted(const std::string& word) {
    if (is_plain_word(word)) return word;
    std::string out = "'";
    for (const char c : word) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
    return out + "'";
}

}  // namespace

std::string command_line(const std::vector<std::string>& argv) {
    std::string out;
    for (const auto& word : argv) out += (out.empty() ? "" : " ") + quoted(word);
    return out;
}

}  // namespace undershelf
