#include "content/picture/embedded.hpp"

#include <algorithm>

#include "content/picture/tiff_directory.hpp"
#include "content/picture/tiff_tags.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
constexpr auto start_of_jpeg = "\xff\xd8\xff"sv;

/// What could be read of a TIFF file's directories before one contradicts itself.
void each_directory(Content& tiff, const std::function<void(TiffFile&, const TiffDirectory&)>& take) {
    TiffFile file(tiff);
    try {
        file.read();
    } catch (const TiffWrong&) {
        // What could be read before is as good.
    }
    for (const auto& directory : file.directories()) {
        try {
            take(file, directory);
        } catch (const TiffWrong&) {
            // Another one may tell more.
        }
    }
}

bool begins_jpeg(Content& content, std::uint64_t at) {
    Cursor start(content, at);
    return begins_with(start.peek(start_of_jpeg.size()), start_of_jpeg);
}

}  // namespace

int orientation_of(const FormatReader& reader, Content& content) {
    int out = 1;
    reader.exif(content, [&](Content& tiff) {
        bool told = false;
        each_directory(tiff, [&](TiffFile& file, const TiffDirectory& directory) {
            const auto* entry = directory.entry(tag::orientation);
            if (told || !entry || entry->count != 1) return;
            told = true;  // the first directory is that of the picture itself
            if (const auto value = file.numbers(*entry).front(); value >= 1 && value <= 8)
                out = static_cast<int>(value);
        });
    });
    return out;
}

void embedded_jpegs(const FormatReader& reader, bool raw, Content& content,
                    const std::function<bool(Content& jpeg)>& take) {
    bool enough = false, any = false;
    const auto give = [&](Content& in, std::uint64_t at, std::uint64_t size) {
        if (enough || at >= in.size() || !begins_jpeg(in, at)) return;
        any = true;
        PartOfContent jpeg(in, at, std::min(size, in.size() - at));
        enough = take(jpeg);
    };
    reader.exif(content, [&](Content& tiff) {
        each_directory(tiff, [&](TiffFile& file, const TiffDirectory& d) {
            if (const auto at = file.number(d, tag::jpeg_offset))
                give(tiff, at, file.number(d, tag::jpeg_size));
            // DNG and others keep theirs as a strip.
            const auto* strips = d.entry(tag::strip_offsets);
            const auto packed = file.number(d, tag::compression);
            if (raw && strips && strips->count == 1 &&
                (packed == compression::jpeg || packed == compression::old_jpeg))
                give(tiff, file.number(d, tag::strip_offsets), file.number(d, tag::strip_sizes));
        });
    });
    if (!raw || any) return;
    constexpr std::uint64_t furthest = 64 << 20;
    for (std::uint64_t at = 0; !enough && at < std::min(content.size(), furthest);) {
        Cursor here(content, at);
        const auto bytes = here.peek(Cursor::window);
        if (bytes.size() < start_of_jpeg.size()) break;
        const auto text = text_of(bytes);
        for (auto found = text.find(start_of_jpeg); found != text.npos && !enough;
             found = text.find(start_of_jpeg, found + 1))
            give(content, at + found, content.size());
        at += bytes.size() - (start_of_jpeg.size() - 1);
    }
}

}  // namespace undershelf::content
