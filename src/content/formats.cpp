#include <algorithm>
#include <array>

#include "content/readers.hpp"

namespace undershelf {

namespace {

using namespace content;

constexpr double sure_enough = 0.8;

const std::vector<const FormatReader*>& readers() {
    static const std::vector<const FormatReader*> all{
        &png(),  &gif(),       &gzip(), &bzip2(), &xz(),  &zstd(),   &zip(), &jpeg(), &pdf(),
        &webp(), &seven_zip(), &cab(),  &rar(),   &tar(), &sqlite(), &ogg(), &flac()};
    return all;
}

constexpr auto formats = std::to_array<Format>({
    {"jpeg", Kind::picture, "jpg"},   {"tar", Kind::archive, "tar"},    {"sqlite", Kind::database, "db"},
    {"pdf", Kind::document, "pdf"},   {"webp", Kind::picture, "webp"},  {"7z", Kind::archive, "7z"},
    {"cab", Kind::archive, "cab"},    {"rar", Kind::archive, "rar"},    {"png", Kind::picture, "png"},
    {"gif", Kind::picture, "gif"},    {"zip", Kind::archive, "zip"},    {"docx", Kind::document, "docx"},
    {"xlsx", Kind::document, "xlsx"}, {"pptx", Kind::document, "pptx"}, {"odt", Kind::document, "odt"},
    {"ods", Kind::document, "ods"},   {"odp", Kind::document, "odp"},   {"epub", Kind::document, "epub"},
    {"jar", Kind::program, "jar"},    {"gzip", Kind::archive, "gz"},    {"bzip2", Kind::archive, "bz2"},
    {"xz", Kind::archive, "xz"},      {"zstd", Kind::archive, "zst"},   {"ogg", Kind::audio, "ogg"},
    {"opus", Kind::audio, "opus"},    {"flac", Kind::audio, "flac"},
});

}  // namespace

const Format* format_named(std::string_view word) {
    const auto it =
        std::find_if(formats.begin(), formats.end(), [&](const Format& f) { return f.word == word; });
    return it == formats.end() ? nullptr : &*it;
}

const FormatReader* reader_of(Bytes first) {
    const FormatReader* best = nullptr;
    double most = sure_enough;
    for (const auto* r : readers()) {
        const auto sure = r->recognise(first);
        if (sure < most || (best && sure == most)) continue;
        best = r;
        most = sure;
    }
    return best;
}

std::optional<Check> check_content(Content& content, const CheckLimits& limits) {
    Cursor start(content);
    const auto* reader = reader_of(start.peek(4096));
    if (!reader) return std::nullopt;
    return reader->check(content, limits);
}

namespace {
constexpr std::array<std::string_view, 4> strengths{"none", "weak", "fair", "strong"};
}

std::string_view word(Strength strength) {
    return strengths[static_cast<std::size_t>(strength)];
}

std::optional<Strength> strength_from_word(std::string_view text) {
    for (std::size_t i = 0; i < strengths.size(); ++i) {
        if (strengths[i] == text) return static_cast<Strength>(i);
    }
    return std::nullopt;
}

bool content::begins_with(Bytes bytes, std::string_view magic) {
    return bytes.size() >= magic.size() &&
           std::equal(magic.begin(), magic.end(), bytes.begin(),
                      [](char a, std::uint8_t b) { return static_cast<std::uint8_t>(a) == b; });
}

}  // namespace undershelf
