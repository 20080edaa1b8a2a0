// TIFF (TIFF 6.0, BigTIFF), and the raw pictures of cameras that are built on it: directories, which are ours
// to read, and picture data in strips or tiles, which libtiff decodes where they are compressed.

#include <tiffio.h>

#include <algorithm>

#include "content/density.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/media_units.hpp"
#include "content/memory.hpp"
#include "content/picture/exif.hpp"
#include "content/picture/jpeg.hpp"
#include "content/picture/picture_details.hpp"
#include "content/picture/tiff_directory.hpp"
#include "content/picture/tiff_tags.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

constexpr std::uint64_t most_memory = 256
                                      << 20;  ///< bytes of a strip, or a tile, or what it takes to decode one

/// The values after the byte order in cameras' own kinds of TIFF: Panasonic, Olympus.
bool is_raw_magic(std::uint16_t magic) {
    return magic == 0x55 || magic == 0x4F52 || magic == 0x5352;
}

/// Cameras' own kinds of TIFF by their marks, and by who made the camera.
std::string_view raw_extension(Content& content) {
    TiffFile file(content);
    try {
        file.read();
    } catch (const TiffWrong&) {
        // What could be read before is as good.
    }
    Cursor start(content);
    const auto first = start.peek(12);
    if (file.magic() == 0x55) return "rw2";
    if (is_raw_magic(file.magic())) return "orf";
    if (first.size() == 12 && begins_with(first.subspan(8), "CR"sv)) return "cr2";
    std::string make;
    bool sensor = false;
    for (const auto& d : file.directories()) {
        if (d.entry(tag::dng_version)) return "dng";
        const auto photometric = file.number(d, tag::photometric);
        sensor |= photometric == photometric_sensor || photometric == photometric_linear_raw;
        const auto* maker = d.entry(tag::make);
        if (!maker || !make.empty() || maker->size > 64) continue;
        ByteVector bytes(static_cast<std::size_t>(maker->size));
        bytes.resize(content.read(maker->at, bytes));
        make = from_latin_1(bytes);
    }
    if (!sensor) return {};
    constexpr std::pair<std::string_view, std::string_view> makers[] = {
        {"NIKON", "nef"}, {"SONY", "arw"}, {"PENTAX", "pef"}, {"SAMSUNG", "srw"}, {"Canon", "cr2"}};
    for (const auto& [name, ext] : makers) {
        if (make.starts_with(name)) return ext;
    }
    return "tif";  // what it is built as, where nobody knows what its maker calls it
}

/// A picture open in libtiff.
class TiffPicture {
  public:
    explicit TiffPicture(Content& content) : content_(content) {
        const std::unique_ptr<TIFFOpenOptions, decltype(&TIFFOpenOptionsFree)> options(TIFFOpenOptionsAlloc(),
                                                                                       TIFFOpenOptionsFree);
        TIFFOpenOptionsSetMaxSingleMemAlloc(options.get(), static_cast<tmsize_t>(most_memory));
        TIFFOpenOptionsSetErrorHandlerExtR(options.get(), complain, this);
        TIFFOpenOptionsSetWarningHandlerExtR(options.get(), complain, this);
        // m: not by mapping.
        tiff_.reset(TIFFClientOpenExt("", "rm", this, read, write, seek, close, size, nullptr, nullptr,
                                      options.get()));
    }

    /// Decodes each strip or tile of the directory at `at`. Returns the number of the first that does not
    /// decode; nothing when all do.
    std::optional<std::uint32_t> first_wrong(std::uint64_t at) {
        if (!tiff_ || !TIFFSetSubDirectory(tiff_.get(), at)) return 0;
        const bool tiled = TIFFIsTiled(tiff_.get());
        const auto bytes = tiled ? TIFFTileSize64(tiff_.get()) : TIFFStripSize64(tiff_.get());
        const auto count = tiled ? TIFFNumberOfTiles(tiff_.get()) : TIFFNumberOfStrips(tiff_.get());
        if (bytes == 0 || bytes > most_memory) {
            too_large_ = bytes > 0;
            return 0;
        }
        std::uint64_t packed = 0;
        for (std::uint32_t i = 0; i < count; ++i)
            packed = std::max(packed, TIFFGetStrileByteCount(tiff_.get(), i));
        memory_.grow(bytes + std::min({packed, most_memory, content_.size()}));
        ByteVector out(static_cast<std::size_t>(bytes));
        for (std::uint32_t i = 0; i < count; ++i) {
            complained_ = false;
            const auto got =
                tiled ? TIFFReadEncodedTile(tiff_.get(), i, out.data(), static_cast<tmsize_t>(bytes))
                      : TIFFReadEncodedStrip(tiff_.get(), i, out.data(), static_cast<tmsize_t>(bytes));
            if (got < 0 || complained_) return i;
        }
        return std::nullopt;
    }
    bool too_large() const { return too_large_; }

  private:
    static int complain(TIFF*, void* self, const char*, const char*, va_list) {
        static_cast<TiffPicture*>(self)->complained_ = true;
        return 1;
    }
    static tmsize_t read(thandle_t self, void* out, tmsize_t count) {
        auto& t = *static_cast<TiffPicture*>(self);
        const auto got =
            t.content_.read(t.at_, {static_cast<std::uint8_t*>(out), static_cast<std::size_t>(count)});
        t.at_ += got;
        return static_cast<tmsize_t>(got);
    }
    static tmsize_t write(thandle_t, void*, tmsize_t) { return 0; }
    static toff_t seek(thandle_t self, toff_t to, int from) {
        auto& t = *static_cast<TiffPicture*>(self);
        t.at_ = from == SEEK_SET ? to : from == SEEK_CUR ? t.at_ + to : t.content_.size() + to;
        return t.at_;
    }
    static int close(thandle_t) { return 0; }
    static toff_t size(thandle_t self) { return static_cast<TiffPicture*>(self)->content_.size(); }

    Content& content_;
    MemoryClaim memory_;
    std::uint64_t at_ = 0;
    bool complained_ = false, too_large_ = false;
    std::unique_ptr<TIFF, decltype(&TIFFClose)> tiff_{nullptr, TIFFClose};
};

class TiffCheck {
  public:
    explicit TiffCheck(Content& content) : content_(content), file_(content) {}

    Check run() {
        out_.format = "tiff";
        out_.strength = Strength::weak;
        try {
            file_.read();
            if (is_raw()) out_.format = "raw";
            directories_hold_ = true;
            for (const auto& directory : file_.directories()) check_places(directory);
            for (const auto& directory : file_.directories()) {
                check_preview(directory);
                check_picture(directory);
            }
        } catch (const TiffWrong& wrong) {
            // Directories that make no sense lead anywhere.
            out_.cut = directories_hold_ && wrong.cut;
            return out_.fails(wrong.at, wrong.why);
        }
        out_.strength = density_.strength();
        return out_.ends(file_.end());
    }

  private:
    struct Data {
        std::vector<std::uint64_t> offsets, sizes;
    };

    bool is_raw() {
        if (is_raw_magic(file_.magic())) return true;
        Cursor start(content_);
        if (begins_with(start.peek(12).subspan(8), "CR"sv)) return true;
        return std::any_of(file_.directories().begin(), file_.directories().end(),
                           [&](const TiffDirectory& d) {
                               const auto photometric = file_.number(d, tag::photometric);
                               return d.entry(tag::dng_version) || photometric == photometric_sensor ||
                                      photometric == photometric_linear_raw;
                           });
    }

    Data data_of(const TiffDirectory& d) {
        Data out;
        const bool tiled = d.entry(tag::tile_offsets);
        const auto* offsets = d.entry(tiled ? tag::tile_offsets : tag::strip_offsets);
        const auto* sizes = d.entry(tiled ? tag::tile_sizes : tag::strip_sizes);
        if (!offsets || !sizes) return out;
        out.offsets = file_.numbers(*offsets);
        out.sizes = file_.numbers(*sizes);
        if (out.offsets.size() != out.sizes.size())
            throw TiffWrong{d.at, "the tables of its directory disagree"};
        return out;
    }

    void check_places(const TiffDirectory& d) {
        const auto data = data_of(d);
        for (std::size_t i = 0; i < data.offsets.size(); ++i) file_.reach(d, data.offsets[i], data.sizes[i]);
        const auto preview = file_.number(d, tag::jpeg_offset), size = file_.number(d, tag::jpeg_size);
        if (preview > 0 && size > 0) file_.reach(d, preview, size);
    }

    /// A JPEG picture as a whole, as most cameras put one in.
    void check_preview(const TiffDirectory& d) {
        const auto at = file_.number(d, tag::jpeg_offset), size = file_.number(d, tag::jpeg_size);
        if (at == 0 || size == 0) return;
        PartOfContent picture(content_, at, size);
        Cursor start(picture);
        if (jpeg().recognise(start.peek(16)).sure == 0) {
            density_.add_unseen(size);
            return;
        }
        if (const auto check = jpeg().check(picture, {}); !check.complete)
            throw TiffWrong{at, "a small picture in it makes no sense"};
        density_.add_decoded(size);
    }

    void check_picture(const TiffDirectory& d) {
        const auto data = data_of(d);
        if (data.offsets.empty()) return;
        const auto kind = file_.number(d, tag::compression, compression::none);
        const bool decodes =
            out_.format == "tiff" &&
            (kind == compression::lzw || kind == compression::deflate || kind == compression::old_deflate ||
             kind == compression::jpeg || kind == compression::packbits || kind == compression::fax_3 ||
             kind == compression::fax_4 || kind == compression::ccitt_rle);
        for (std::size_t i = 0; i < data.offsets.size(); ++i) {
            if (decodes) {
                density_.add_decoded(data.sizes[i]);
            } else {
                density_.add_unseen(data.sizes[i]);
                if (!readable(content_, data.offsets[i], data.sizes[i]))
                    throw TiffWrong{data.offsets[i], "bytes of its picture are missing"};
            }
        }
        if (!decodes) return;
        if (!picture_) picture_.emplace(content_);
        const auto wrong = picture_->first_wrong(d.at);
        if (!wrong) return;
        out_.finished = !picture_->too_large();
        const auto place = *wrong < data.offsets.size() ? data.offsets[*wrong] : d.at;
        throw TiffWrong{place, out_.finished ? "its picture data make no sense"
                                             : "it is larger than what is decoded in memory"};
    }

    Content& content_;
    TiffFile file_;
    std::optional<TiffPicture> picture_;
    bool directories_hold_ = false;
    Density density_;
    Check out_;
};

class Tiff final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        if (first.size() < 8) return {};
        const bool big = begins_with(first, "MM"sv);
        if (!big && !begins_with(first, "II"sv)) return {};
        const unsigned magic = big ? first[2] << 8 | first[3] : first[3] << 8 | first[2];
        return {"tiff", magic == tiff_magic || magic == big_tiff_magic ||
                                is_raw_magic(static_cast<std::uint16_t>(magic))
                            ? 0.9
                            : 0.0};
    }
    void exif(Content& content, const UseExif& use) const override { use(content); }
    std::string title(Content& content) const override { return exif_title(content); }
    InnerDates dates(Content& content) const override { return exif_dates(content); }
    ContentDetails details(Content& content) const override { return tiff_details(content); }
    std::string_view extension(Content& content) const override { return raw_extension(content); }
    Check check(Content& content, const CheckLimits&) const override { return TiffCheck(content).run(); }
};

constexpr Format rows[] = {
    {.word = "tiff",
     .name = "TIFF picture",
     .kind = Kind::picture,
     .extensions = " tif tiff ",
     .family = "tiff",
     .strength = Strength::fair,
     .delay = 4 * KiB,
     .marks = "IIMM"sv},
};

}  // namespace

FormatRows tiff_formats() {
    static const Tiff reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
