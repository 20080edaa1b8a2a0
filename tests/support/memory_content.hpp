#pragma once
// Contents in memory, some of whose bytes may be missing, and small files of the formats that are checked.

#include <algorithm>
#include <random>
#include <string>

#include "content/content.hpp"

namespace undershelf::test {

class MemoryContent final : public Content {
  public:
    explicit MemoryContent(ByteVector bytes, std::uint64_t missing_from = ~0ull)
        : bytes_(std::move(bytes)), missing_from_(missing_from) {}
    std::uint64_t size() const override { return bytes_.size(); }
    std::size_t read(std::uint64_t offset, MutableBytes out) override {
        const auto end = std::min<std::uint64_t>(bytes_.size(), missing_from_);
        if (offset >= end) return 0;
        const auto n = static_cast<std::size_t>(std::min<std::uint64_t>(out.size(), end - offset));
        std::copy_n(bytes_.begin() + static_cast<std::ptrdiff_t>(offset), n, out.begin());
        return n;
    }

  private:
    ByteVector bytes_;
    std::uint64_t missing_from_;
};

/// While one lives, the files that are made have contents of their own. 0: the usual ones.
class Edition {
  public:
    explicit Edition(int number);
    ~Edition();
    Edition(const Edition&) = delete;
    Edition& operator=(const Edition&) = delete;
};
/// The same for the same seed and edition.
std::mt19937 random_numbers(unsigned seed);

/// Text of the theatre that shrinks a little when it is packed.
ByteVector libretto(std::size_t length);

ByteVector png_file();
ByteVector gif_file();
ByteVector gzip_file(const ByteVector& content);
ByteVector bzip2_file(const ByteVector& content);
ByteVector xz_file(const ByteVector& content, bool with_check = true);
ByteVector zstd_file(const ByteVector& content, bool with_checksum = true);
ByteVector jpeg_file();
/// Lossless.
ByteVector webp_file();
ByteVector pdf_file();
struct TarParts {
    bool holes = false;     ///< each member has a map of holes that goes on after its head
    bool extended = false;  ///< its size is in an extended head alone
};
ByteVector tar_file(const TarParts& parts = {});
ByteVector sqlite_file();
ByteVector seven_zip_file(bool packed = true);
ByteVector cab_file();
ByteVector rar_file();
ByteVector ogg_file();
ByteVector flac_file();

struct Movie {
    bool index_first = false;
    bool fragments = false;  ///< each with samples and an index of its own
    bool sound_alone = false;
    std::size_t unit = 300;  ///< bytes of a picture's data, at most twice as many
};
/// MP4 with AVC pictures and AAC sound.
ByteVector mp4_file(const Movie& movie = {});
/// QuickTime with a JPEG a picture.
ByteVector mov_file();

/// Tiles of HEVC, or of AV1.
ByteVector heif_file(bool av1 = false);
ByteVector wav_file();
/// Frames of noise, and an index after them.
ByteVector avi_file(std::size_t frame = 400);
ByteVector bmp_file();
ByteVector psd_file();
/// Of one PNG picture.
ByteVector ico_file();

/// Packets of two payloads each, and an index; it calls itself `Curtain`.
ByteVector asf_file();
/// MPEG-2, each pack with one packet of pictures.
ByteVector program_stream(std::size_t packs = 12);
/// Packets `step` bytes apart.
ByteVector transport_stream(std::size_t step = 188, std::size_t count = 40);
ByteVector bare_video(bool ended = true);

/// UTF-8, one line a cue.
ByteVector text_file(std::size_t lines);
ByteVector utf16_file(bool big_endian, bool marked = true);
/// `root` is a name and its attributes. Titled `Cues & props`.
ByteVector xml_file(std::string_view root = "cues", std::size_t cues = 60);
ByteVector html_file();
ByteVector rtf_file();
/// With a packed attachment; its subject is `Cues for the third act`.
ByteVector eml_file();
ByteVector mbox_file();

/// A font of two tables; deflated ones make it a WOFF. `names` is its table of names, else noise.
ByteVector font_file(bool open_type = false, const ByteVector& names = {});
ByteVector woff_file(const ByteVector& names = {});
ByteVector woff2_file();
ByteVector elf_file();
ByteVector pe_file();

enum class Blocks { simple, grouped, laced };
/// `cover_at`: where in it a picture begins that it has as an attachment; 0 for none.
ByteVector matroska_file(bool with_sums, Blocks blocks = Blocks::simple, std::string_view type = "matroska",
                         std::size_t cover_at = 0);
/// With tags before and after, and the number of frames in the first one where `counted`.
ByteVector mp3_file(bool counted = true, std::size_t frames = 40);

struct CompoundStreamParts {
    std::string name;
    ByteVector content;
};
/// A compound file with these streams.
ByteVector compound_file(const std::vector<CompoundStreamParts>& streams);
ByteVector doc_file();
ByteVector xls_file();
ByteVector ppt_file();

struct TiffParts {
    bool deflated = true;
    bool big_endian = false;
    std::uint64_t photometric = 1;
};
ByteVector tiff_file(const TiffParts& parts = {});
ByteVector ciff_file();
ByteVector raf_file();
ByteVector mrw_file();
ByteVector x3f_file();

struct ZipMember {
    std::string name;
    ByteVector content;
    bool deflated = true;
    bool sizes_follow = false;  ///< they are after the data
};
ByteVector zip_file(const std::vector<ZipMember>& members);

}  // namespace undershelf::test
