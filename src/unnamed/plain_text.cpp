#include "unnamed/plain_text.hpp"

#include <algorithm>
#include <array>
#include <string_view>

#include "content/ascii.hpp"
#include "content/format.hpp"
#include "content/formats.hpp"
#include "content/text/mail.hpp"
#include "content/text/text.hpp"

namespace undershelf {

namespace {

/// The first row of a table has as many fields as the next ones: where it has others, a part of it is gone.
bool first_row_is_whole(std::string_view text) {
    const auto separator = content::separator_of_rows(text);
    if (!separator) return true;
    const auto first = text.substr(0, text.find('\n')), rest = text.substr(first.size() + 1);
    const auto second = rest.substr(0, rest.find('\n'));
    return std::count(first.begin(), first.end(), *separator) ==
           std::count(second.begin(), second.end(), *separator);
}

}  // namespace

bool reads_as_text(Bytes first) {
    constexpr std::size_t enough = 512, least_kinds = 10;
    const auto end = std::find(first.begin(), first.end(), 0);
    // Of UTF-16 half the bytes may be zeros.
    const auto text =
        end - first.begin() < 8 ? first : first.first(static_cast<std::size_t>(end - first.begin()));
    const auto looked = text.first(std::min(text.size(), enough));
    std::array<std::size_t, 256> counts{};
    for (const auto b : looked) ++counts[b];
    const auto kinds = static_cast<std::size_t>(
        std::count_if(counts.begin(), counts.end(), [](std::size_t n) { return n > 0; }));
    // Runs of spaces and zeros are in many texts.
    counts[' '] = counts[0] = 0;
    const auto most = *std::max_element(counts.begin(), counts.end());
    return kinds >= std::min(least_kinds, looked.size() / 8) && most * 3 <= looked.size() * 2;
}

bool begins_a_document(Bytes first) {
    using namespace std::string_view_literals;
    constexpr std::string_view starts[] = {"<?xml "sv, "<!doctype "sv, "<html"sv, "<svg"sv, "#!/"sv};
    const auto text = content::text_of(first);
    const auto begins = [&](std::string_view start) {
        return content::same_word(text.substr(0, start.size()), start);
    };
    if (std::any_of(std::begin(starts), std::end(starts), begins)) return true;
    if (!content::begins_with_mail_field(text)) return false;
    const auto* format = format_of_start(first);
    return format && format->family == "mail";
}

bool begins_as_text(Bytes first) {
    if (first.empty()) return false;
    // The marks of UTF-16 and UTF-8, and its first bytes.
    const auto c = first[0] == 0 && first.size() > 1 ? first[1] : first[0];
    if (c >= 0x80) return c >= 0xC2;
    constexpr std::string_view in_the_middle = " ,.;:)]}>!?%&+=|";
    return first_row_is_whole(content::text_of(first)) && !(c >= 'a' && c <= 'z') &&
           in_the_middle.find(static_cast<char>(c)) == in_the_middle.npos;
}

}  // namespace undershelf
