#include "content/signature.hpp"

#include <algorithm>
#include <string>
#include <unordered_map>

#include "base/text.hpp"
#include "content/formats.hpp"
#include "content/word_list.hpp"

namespace undershelf {

namespace {

constexpr std::size_t short_extension = 3;  ///< letters that a short name keeps

/// The formats of extensions that begin with these three letters and have more.
template <class Visit>
bool any_of_longer(std::string_view ext, const Visit& visit) {
    const auto longer = std::string(ext.substr(0, short_extension)) + any_longer;
    const auto all = formats();
    return std::any_of(all.begin(), all.end(),
                       [&](const Format& f) { return promises(longer, f) && !promises(ext, f) && visit(f); });
}

/// What the rows of all formats together say of an extension.
struct Promise {
    bool expected = false;            ///< there is a format that it promises
    bool texts_alone = false;         ///< and all of these are texts
    bool rarely_holds_zeros = false;  ///< one of them is packed, or all are texts
    bool shared = false;              ///< formats that are not known here have it as well
};

Promise told_by_rows(std::string_view ext) {
    Promise out;
    bool others = false, packed = false;
    for (const auto& f : formats()) {
        out.shared |= lists_extension(f.shared, ext);
        if (!promises(ext, f)) continue;
        out.expected = true;
        others |= !is_text(f);
        packed |= has_no_zeros(f);
    }
    out.texts_alone = out.expected && !others;
    out.rarely_holds_zeros = packed || out.texts_alone;
    return out;
}

/// The same, worked out once for every extension that is known: this is asked for every file.
Promise promise_of(std::string_view ext) {
    static const auto known = [] {
        std::unordered_map<std::string_view, Promise> out;
        for (const auto& f : formats())
            for_each_word(f.extensions,
                          [&](std::string_view word) { out.emplace(word, told_by_rows(word)); });
        return out;
    }();
    const bool may_be_longer = written_extension(ext).size() != ext.size();
    if (may_be_longer) return told_by_rows(ext);
    const auto it = known.find(ext);
    return it == known.end() ? Promise() : it->second;
}

/// A table of values begins as one.
bool begins_as_json(Bytes first, std::string_view ext) {
    if (ext != "json") return false;
    const auto text = content::text_of(first);
    const auto at = text.find_first_not_of(" \t\r\n\xef\xbb\xbf");
    return at != text.npos && (text[at] == '{' || text[at] == '[');
}

FirstBytes compare_text(Bytes first, std::string_view ext, const Format* format) {
    if (!format) return {Agreement::contradicts, "binary data"};
    if (!is_text(*format)) return {Agreement::contradicts, format->name};
    // Of plain characters anything may begin with anything.
    const bool told = format->word != "text" && promises(ext, *format);
    return {told || begins_as_json(first, ext) ? Agreement::agrees : Agreement::weakly,
            told ? format->name : "text"};
}

}  // namespace

std::string_view recognise_format(Bytes first) {
    const auto* format = format_of_start(first);
    return format ? format->name : std::string_view{};
}

std::string_view usual_extension(Bytes first) {
    const auto* format = format_of_start(first);
    return format ? usual_extension(*format) : std::string_view();
}

bool is_text_extension(std::string_view ext) {
    return promise_of(ext).texts_alone;
}
bool has_expected_start(std::string_view ext) {
    return promise_of(ext).expected;
}
bool rarely_holds_zeros(std::string_view ext) {
    return promise_of(ext).rarely_holds_zeros;
}
bool is_text_start(Bytes first) {
    const auto* format = format_of_start(first);
    return format && is_text(*format);
}

std::string content_extension(std::string_view name) {
    constexpr std::size_t bin_record = 8;  // characters: `$I` and six more
    const bool of_bin = name.starts_with("$I") && std::min(name.find('.'), name.size()) == bin_record;
    if (of_bin || name.starts_with("._")) return {};
    auto ext = extension_of(name);
    if (ext.size() != short_extension) return ext;
    if (is_alias(name)) return ext + any_longer;
    return is_short_name(name) && any_of_longer(ext, [](const Format&) { return true; }) ? ext + maybe_longer
                                                                                         : ext;
}

FirstBytes compare_with_extension(Bytes first, std::string_view ext) {
    if (first.empty()) return {};
    const auto* format = format_of_start(first);
    const auto name = format ? format->name : std::string_view();
    if (is_text_extension(ext)) return compare_text(first, ext, format);
    bool expected = false;
    for (const auto& f : formats()) {
        if (!promises(ext, f)) continue;
        if (begins_like(f, first)) return {Agreement::agrees, f.name};
        expected = true;
    }
    if (!expected) return {Agreement::unknown, name};
    if (ext.back() == maybe_longer &&
        any_of_longer(ext, [&](const Format& f) { return begins_like(f, first); }))
        return {Agreement::unknown, name};
    if ((!format || is_text(*format)) && promise_of(ext).shared) return {Agreement::unknown, {}};
    return {Agreement::contradicts, name};
}

}  // namespace undershelf
