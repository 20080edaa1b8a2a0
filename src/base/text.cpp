#include "base/text.hpp"

#include <fmt/format.h>
#include <unicode/bytestream.h>
#include <unicode/casemap.h>
#include <unicode/normalizer2.h>
#include <unicode/uchar.h>
#include <unicode/ucnv.h>
#include <unicode/ucsdet.h>
#include <unicode/unistr.h>
#include <unicode/utf8.h>

#include <algorithm>

#include "base/error.hpp"

namespace undershelf {

namespace {
bool is_ascii(std::string_view text) {
    return std::all_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 0x80; });
}

const icu::Normalizer2& nfc() {
    UErrorCode status = U_ZERO_ERROR;
    static const auto* instance = icu::Normalizer2::getNFCInstance(status);
    return *instance;
}

std::string composed_utf8(const icu::UnicodeString& text) {
    UErrorCode status = U_ZERO_ERROR;
    std::string out;
    nfc().normalize(text, status).toUTF8String(out);
    return out;
}
}  // namespace

std::string utf8_from_utf16(std::u16string_view units) {
    if (std::all_of(units.begin(), units.end(), [](char16_t u) { return u < 0x80; })) {
        return {units.begin(), units.end()};
    }
    return composed_utf8(icu::UnicodeString(units.data(), static_cast<int32_t>(units.size())));
}

std::u16string utf16_units(Bytes bytes) {
    std::u16string out(bytes.size() / 2, u'\0');
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = static_cast<char16_t>(bytes[i * 2] | bytes[i * 2 + 1] << 8);
    return out;
}

std::string composed(std::string_view text) {
    if (is_ascii(text)) return std::string(text);
    return composed_utf8(
        icu::UnicodeString::fromUTF8(icu::StringPiece(text.data(), static_cast<int32_t>(text.size()))));
}

std::string folded(std::string_view text) {
    if (is_ascii(text)) {
        std::string out(text);
        for (auto& c : out) {
            if (c >= 'A' && c <= 'Z') c = static_cast<char>(c + 32);
        }
        return out;
    }
    const auto u =
        icu::UnicodeString::fromUTF8(icu::StringPiece(text.data(), static_cast<int32_t>(text.size())));
    UErrorCode status = U_ZERO_ERROR;
    std::string out;
    nfc().normalize(u, status).foldCase().toUTF8String(out);
    return out;
}

namespace {
/// One code point from the front; malformed bytes count as one character each.
char32_t take(std::string_view text, std::size_t& at) {
    int32_t i = static_cast<int32_t>(at);
    UChar32 c = 0;
    U8_NEXT(text.data(), i, static_cast<int32_t>(text.size()), c);
    at = static_cast<std::size_t>(i);
    return c < 0 ? 0xFFFD : static_cast<char32_t>(c);
}

/// Matches one character against the pattern element at `at`, and goes on after it.
bool matches_one(char32_t c, std::string_view pattern, std::size_t& at) {
    const auto begin = at;
    const char32_t p = take(pattern, at);
    if (p == U'?') return true;
    if (p != U'[') return c == p;
    const bool negated = at < pattern.size() && (pattern[at] == '!' || pattern[at] == '^');
    if (negated) ++at;
    bool hit = false, first = true;
    while (at < pattern.size() && (first || pattern[at] != ']')) {
        first = false;
        const char32_t low = take(pattern, at);
        char32_t high = low;
        if (at + 1 < pattern.size() && pattern[at] == '-' && pattern[at + 1] != ']')
            high = take(pattern, ++at);
        hit |= low <= c && c <= high;
    }
    if (at >= pattern.size()) {  // never closed: a plain bracket
        at = begin + 1;
        return c == U'[';
    }
    ++at;
    return hit != negated;
}
}  // namespace

bool matches_glob(std::string_view text, std::string_view pattern, std::size_t unknown) {
    std::size_t t = 0, p = 0, star_p = std::string_view::npos, star_t = 0;
    while (t < text.size()) {
        std::size_t next_t = t, next_p = p;
        if (p < pattern.size() && pattern[p] == '*') {
            star_p = ++p;
            star_t = t;
        } else if (p < pattern.size() && (matches_one(take(text, next_t), pattern, next_p) || t == unknown)) {
            t = next_t;
            p = next_p;
        } else if (star_p != std::string_view::npos) {
            take(text, star_t);
            t = star_t;
            p = star_p;
        } else {
            return false;
        }
    }
    return pattern.find_first_not_of('*', p) == std::string_view::npos;
}

bool is_short_name(std::string_view name) {
    constexpr std::size_t most_base = 8, most_extension = 3;
    const auto dot = std::min(name.find('.'), name.size());
    return dot > 0 && dot <= most_base && name.size() <= dot + 1 + most_extension &&
           std::none_of(name.begin(), name.end(),
                        [](char c) { return c == ' ' || (c >= 'a' && c <= 'z') || (c & 0x80); });
}

bool is_alias(std::string_view name) {
    constexpr std::size_t most_digits = 6;
    if (!is_short_name(name)) return false;
    const auto dot = std::min(name.find('.'), name.size());
    const auto tilde = name.substr(0, dot).rfind('~');
    if (tilde == name.npos) return false;
    const auto number = name.substr(tilde + 1, dot - tilde - 1);
    return !number.empty() && number.size() <= most_digits &&
           std::all_of(number.begin(), number.end(), [](char c) { return c >= '0' && c <= '9'; });
}

std::string grouped(std::uint64_t n) {
    auto out = std::to_string(n);
    for (auto at = static_cast<int>(out.size()) - 3; at > 0; at -= 3)
        out.insert(static_cast<std::size_t>(at), 1, ',');
    return out;
}

bool lists_word(std::string_view list, std::string_view word) {
    if (word.empty()) return false;
    // Every place where it is is held against the spaces around it.
    for (auto at = list.find(word); at != std::string_view::npos; at = list.find(word, at + 1)) {
        if (at > 0 && list[at - 1] == ' ' && at + word.size() < list.size() && list[at + word.size()] == ' ')
            return true;
    }
    return false;
}

std::string extension_of(std::string_view name) {
    const auto dot = name.rfind('.');
    if (dot == std::string_view::npos || dot == 0 || dot + 1 == name.size()) return {};
    return folded(name.substr(dot + 1));
}

struct CodePage::Converter {
    UConverter* handle;
    ~Converter() { ucnv_close(handle); }
};

std::string searchable(std::string_view text) {
    if (is_ascii(text)) {
        std::string out(text);
        std::transform(out.begin(), out.end(), out.begin(),
                       [](char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; });
        return out;
    }
    UErrorCode status = U_ZERO_ERROR;
    static const auto* decomposing = icu::Normalizer2::getNFKDInstance(status);
    const auto whole = icu::UnicodeString::fromUTF8({text.data(), static_cast<int32_t>(text.size())});
    const auto apart = decomposing->normalize(whole, status);
    icu::UnicodeString kept;
    for (int32_t i = 0; i < apart.length(); i = apart.moveIndex32(i, 1)) {
        const auto c = apart.char32At(i);
        if (u_charType(c) != U_NON_SPACING_MARK) kept.append(c);
    }
    std::string out;
    kept.foldCase().toUTF8String(out);
    return out;
}

std::optional<std::string> utf8_from_charset(Bytes bytes, const std::string& name) {
    UErrorCode status = U_ZERO_ERROR;
    const std::unique_ptr<UConverter, decltype(&ucnv_close)> converter(ucnv_open(name.c_str(), &status),
                                                                       &ucnv_close);
    if (U_FAILURE(status)) return std::nullopt;
    return composed_utf8(icu::UnicodeString(reinterpret_cast<const char*>(bytes.data()),
                                            static_cast<int32_t>(bytes.size()), converter.get(), status));
}

std::string likely_charset(Bytes bytes) {
    UErrorCode status = U_ZERO_ERROR;
    const std::unique_ptr<UCharsetDetector, decltype(&ucsdet_close)> detector(ucsdet_open(&status),
                                                                              &ucsdet_close);
    if (U_FAILURE(status)) return {};
    ucsdet_setText(detector.get(), reinterpret_cast<const char*>(bytes.data()),
                   static_cast<int32_t>(bytes.size()), &status);
    const auto* match = ucsdet_detect(detector.get(), &status);
    constexpr int32_t sure_enough = 30;  // of 100
    if (U_FAILURE(status) || !match || ucsdet_getConfidence(match, &status) < sure_enough) return {};
    const auto* name = ucsdet_getName(match, &status);
    return U_SUCCESS(status) && name ? std::string(name) : std::string();
}

std::string utf8_character(std::uint32_t c) {
    if (c == 0 || c > 0x10FFFF || (c >= 0xD800 && c < 0xE000)) return {};
    std::string out;
    icu::UnicodeString(static_cast<UChar32>(c)).toUTF8String(out);
    return out;
}

CodePage::CodePage(const std::string& number) {
    UErrorCode status = U_ZERO_ERROR;
    auto* handle = ucnv_open(fmt::format("ibm-{}", number).c_str(), &status);
    if (U_FAILURE(status)) {
        status = U_ZERO_ERROR;
        handle = ucnv_open(fmt::format("cp{}", number).c_str(), &status);
    }
    if (U_FAILURE(status)) {
        throw Error(
            Trouble::usage,
            fmt::format("Code page {} is not known; give a number such as 437, 850, 866 or 932.", number));
    }
    converter_.reset(new Converter{handle});
}
CodePage::~CodePage() = default;
CodePage::CodePage(CodePage&&) noexcept = default;
CodePage& CodePage::operator=(CodePage&&) noexcept = default;

std::string CodePage::utf8(Bytes bytes) const {
    const std::string_view text(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    if (is_ascii(text)) return std::string(text);
    UErrorCode status = U_ZERO_ERROR;
    return composed_utf8(
        icu::UnicodeString(text.data(), static_cast<int32_t>(text.size()), converter_->handle, status));
}

}  // namespace undershelf
