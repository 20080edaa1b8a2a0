// MP4, M4A, 3GP (ISO/IEC 14496-12) and QuickTime movies: boxes, one of which is an index of where every
// sample is in the others. Samples are looked into as far as their codec is known.

#include <algorithm>
#include <array>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/iso_details.hpp"
#include "content/media/iso_index.hpp"
#include "content/media/media_details.hpp"
#include "content/memory.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

constexpr std::size_t most_index = 128 << 20;  ///< bytes of a `moov` or `moof` box, read into memory
/// Times that all bytes may be read: tracks that share samples are odd, but no reason to go on forever.
constexpr std::uint64_t most_reads = 4;

constexpr auto outer_types = std::to_array<std::uint32_t>(
    {box_type("ftyp"), box_type("moov"), box_type("mdat"), box_type("free"), box_type("skip"),
     box_type("wide"), box_type("pnot"), box_type("PICT"), box_type("uuid"), box_type("moof"),
     box_type("mfra"), box_type("sidx"), box_type("ssix"), box_type("styp"), box_type("meta"),
     box_type("udta"), box_type("prft"), box_type("emsg"), box_type("pdin"), box_type("junk"),
     box_type("meco"), box_type("beam"), box_type("mfro")});

bool is_outer(std::uint32_t type) {
    return std::find(outer_types.begin(), outer_types.end(), type) != outer_types.end();
}
/// Four characters, or such as Apple begins its own with.
bool is_printable(std::uint32_t type) {
    for (int shift = 24; shift >= 0; shift -= 8) {
        const auto c = type >> shift & 0xFF;
        if ((c < 0x20 || c > 0x7E) && c != 0xA9) return false;
    }
    return true;
}
/// Boxes that samples may be in.
bool has_samples(std::uint32_t type) {
    return type == box_type("mdat") || type == box_type("free") || type == box_type("skip") ||
           type == box_type("wide") || type == box_type("uuid");
}

std::uint32_t major_brand(Bytes first) {
    const auto brand = load<boost::endian::big_uint32_buf_t>(first, 8);
    return brand ? brand->value() : 0;
}

/// Still pictures and others that share the boxes, but not the index.
bool is_other_brand(std::uint32_t brand) {
    constexpr auto others = std::to_array<std::uint32_t>(
        {box_type("heic"), box_type("heix"), box_type("heim"), box_type("heis"), box_type("hevc"),
         box_type("hevx"), box_type("mif1"), box_type("mif2"), box_type("msf1"), box_type("avif"),
         box_type("avis"), box_type("jp2 "), box_type("jpx "), box_type("jpm "), box_type("mjp2")});
    return std::find(others.begin(), others.end(), brand) != others.end();
}

/// ISO/IEC 14496-12, Annex E, and the registered brands: what the file calls itself.
std::string_view format_of(Bytes first, const IsoIndex* index) {
    const auto head = box_head(first);
    if (!head || head->type != box_type("ftyp")) return "mov";
    const auto brand = major_brand(first);
    if (brand == box_type("qt  ")) return "mov";
    if (brand == box_type("crx ")) return "raw";  // a camera's raw pictures, in tracks
    const auto is_audio = [](std::uint32_t b) {
        return b == box_type("M4A ") || b == box_type("M4B ") || b == box_type("M4P ");
    };
    if (is_audio(brand)) return "m4a";
    // Some writers name their own kind only among the compatible ones.
    if (!index || std::any_of(index->tracks.begin(), index->tracks.end(),
                              [](const IsoTrack& t) { return t.handler() == box_type("vide"); }))
        return "mp4";
    for (std::size_t at = 16; at + 4 <= std::min<std::uint64_t>(head->size, first.size()); at += 4) {
        if (is_audio(load<boost::endian::big_uint32_buf_t>(first, at)->value())) return "m4a";
    }
    return "mp4";
}

class IsoCheck {
  public:
    explicit IsoCheck(Content& content) : content_(content) {}

    Check run() {
        out_.strength = Strength::weak;
        Cursor start(content_);
        const auto bytes = start.peek(4096);
        const ByteVector first(bytes.begin(), bytes.end());
        const auto outer = walk();
        out_.format = format_of(first, index_ ? &*index_ : nullptr);
        if (trouble_) return out_.fails(trouble_at_, trouble_);
        if (!index_) {
            // Nothing vouches for media without an index: it may be after the end, as where a recording
            // was cut off.
            out_.cut = outer == content_.size() && !media_.empty();
            return out_.fails(media_.empty() ? outer : media_.front().begin,
                              out_.cut ? "its index" : "its index is missing");
        }
        if (cut_at_) trouble(*cut_at_, "it ends before its last box");
        check_samples();
        const bool untold = std::any_of(index_->tracks.begin(), index_->tracks.end(),
                                        [](const IsoTrack& track) { return track.untold(); });
        out_.strength = untold ? Strength::weak : density_.strength();
        if (unfinished_) {
            out_.finished = false;
            return out_.fails(trouble_ ? trouble_at_ : 0, "its tracks share more bytes than one reads");
        }
        return trouble_ ? out_.fails(trouble_at_, trouble_) : out_.ends(outer);
    }

  private:
    struct Stretch {
        std::uint64_t begin, end;
    };
    struct Fragment {
        std::uint64_t at;
        Stretch body;
    };

    void trouble(std::uint64_t at, const char* why) {
        if (trouble_ && trouble_at_ <= at) return;
        trouble_at_ = at;
        trouble_ = why;
    }

    /// From box to box. Returns where the last one ends.
    std::uint64_t walk() {
        std::uint64_t at = 0;
        while (at < content_.size() && !trouble_) {
            std::array<std::uint8_t, largest_box_head> bytes;
            const auto head = box_head(Bytes(bytes).first(content_.read(at, bytes)));
            if (!head || (at > 0 && head->type == box_type("ftyp"))) break;
            if (!is_outer(head->type) && !stands_between(*head, at)) break;
            const auto left = content_.size() - at;
            const auto size = head->size == 0 ? left : std::min(head->size, left);
            const Stretch body{at + head->head, at + size};
            if (head->size > left) cut_at_ = has_samples(head->type) ? content_.size() : at;
            if (has_samples(head->type)) {
                if (body.end > body.begin) media_.push_back(body);
            } else if (!read_box(*head, at, body)) {
                return at;
            }
            if (cut_at_) return at;
            at += size;
        }
        return at;
    }

    /// A box of a kind that nobody here knows is one of the file's where it leads to another one, or to the
    /// end: writers add their own.
    bool stands_between(BoxHead head, std::uint64_t at) {
        constexpr int most = 16;  // in a row
        for (int boxes = 0; at > 0 && boxes < most; ++boxes) {
            if (!is_printable(head.type) || head.size == 0 || head.size > content_.size() - at) return false;
            at += head.size;
            if (at == content_.size()) return true;
            std::array<std::uint8_t, largest_box_head> bytes;
            const auto next = box_head(Bytes(bytes).first(content_.read(at, bytes)));
            if (!next) return false;
            if (is_outer(next->type)) return true;
            head = *next;
        }
        return false;
    }

    /// False where the walk ends.
    bool read_box(const BoxHead& head, std::uint64_t at, Stretch body) {
        const bool is_index = head.type == box_type("moov"), is_fragment = head.type == box_type("moof");
        if (cut_at_) {
            if (is_index && !index_) trouble(at, "it ends within its index");
            return false;
        }
        if (!is_index && !is_fragment) {
            if (readable(content_, body.begin, body.end - body.begin)) return true;
            trouble(at, "bytes of it are missing");
            return false;
        }
        if (body.end - body.begin > most_index) {
            out_.finished = false;
            trouble(at, "its index is larger than what is read into memory");
            return false;
        }
        if (is_fragment) fragments_.push_back({at, body});
        if (is_fragment || index_) return true;  // one index is enough
        memory_.grow(body.end - body.begin);
        auto bytes = read_index(at, body);
        if (trouble_) return false;
        moov_ = std::move(bytes);
        moov_at_ = body.begin;
        try {
            index_.emplace(moov_);
        } catch (const IndexWrong& wrong) {
            trouble(moov_at_ + wrong.at, wrong.why);
            return false;
        }
        return true;
    }

    ByteVector read_index(std::uint64_t at, Stretch body) {
        ByteVector out(static_cast<std::size_t>(body.end - body.begin));
        if (content_.read(body.begin, out) < out.size()) trouble(at, "bytes of its index are missing");
        return out;
    }

    void check_samples() {
        std::sort(media_.begin(), media_.end(),
                  [](const Stretch& a, const Stretch& b) { return a.begin < b.begin; });
        std::map<std::uint32_t, std::unique_ptr<UnitCheck>> checks;
        for (const auto& track : index_->tracks) {
            auto& check = checks[track.id()] = track.unit_check();
            try {
                track.for_each_sample(
                    [&](const IsoSample& s) { return take(s, *check, moov_at_ + track.tables_at()); });
            } catch (const IndexWrong& wrong) {
                trouble(moov_at_ + wrong.at, wrong.why);
            }
        }
        for (const auto& fragment : fragments_) {
            const MemoryClaim memory(fragment.body.end - fragment.body.begin);
            const auto body = read_index(fragment.at, fragment.body);
            if (trouble_) return;
            try {
                for_each_fragment_sample(body, fragment.at, *index_,
                                         [&](std::uint32_t track, const IsoSample& s) {
                                             auto& check = checks[track];
                                             if (!check) check = unknown_units();
                                             return take(s, *check, fragment.at);
                                         });
            } catch (const IndexWrong& wrong) {
                trouble(fragment.body.begin + wrong.at, wrong.why);
            }
        }
    }

    /// `told_at` is where the index says so.
    bool take(const IsoSample& sample, UnitCheck& check, std::uint64_t told_at) {
        const auto after = std::upper_bound(media_.begin(), media_.end(), sample.offset,
                                            [](std::uint64_t at, const Stretch& s) { return at < s.begin; });
        const auto within = after == media_.begin() ? after : after - 1;
        const bool starts_inside = within != media_.end() && sample.offset >= within->begin;
        if (!starts_inside || sample.offset > within->end || sample.size > within->end - sample.offset) {
            // The stretch of what was cut goes on after the end.
            if (starts_inside && cut_at_ && within->end == content_.size()) {
                trouble(std::min(sample.offset, content_.size()), "it ends before its last sample");
            } else {
                trouble(told_at, "a sample of its index is outside of its media");
            }
            return false;
        }
        read_ += sample.size;
        if (read_ / most_reads > content_.size()) {
            unfinished_ = true;
            return false;
        }
        auto& unit = sample.single ? check : *several_;
        if (unit.holds(content_, sample.offset, sample.size, density_)) {
            before_ = sample;
            return true;
        }
        // What went wrong may have begun in the sample before, which is seen through at its start alone.
        const bool long_before = before_.size > most_unseen && before_.offset < sample.offset;
        trouble(long_before ? before_.offset : sample.offset, "a sample of it makes no sense");
        return false;
    }

    Content& content_;
    Check out_;
    const char* trouble_ = nullptr;
    std::uint64_t trouble_at_ = 0;
    std::optional<std::uint64_t> cut_at_;  ///< where a box is cut off by the content's end
    std::vector<Stretch> media_;
    MemoryClaim memory_;  ///< of its index
    ByteVector moov_;
    std::uint64_t moov_at_ = 0;
    std::optional<IsoIndex> index_;
    std::vector<Fragment> fragments_;
    std::unique_ptr<UnitCheck> several_ = unknown_units();
    Density density_;
    IsoSample before_;        ///< the last one that held
    std::uint64_t read_ = 0;  ///< bytes of samples
    bool unfinished_ = false;
};

class IsoMedia final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto head = box_head(first);
        if (!head) return {};
        if (head->type == box_type("ftyp"))
            return {
                format_of(first, nullptr),
                head->size >= 16 && head->size <= 4096 && !is_other_brand(major_brand(first)) ? 1.0 : 0.0};
        // The oldest movies begin with any of these, and another box after it.
        const bool starts = head->type == box_type("moov") || head->type == box_type("mdat") ||
                            head->type == box_type("wide") || head->type == box_type("pnot");
        return {format_of(first, nullptr),
                starts && (head->size != 0 || head->type == box_type("mdat")) ? 0.85 : 0.0};
    }

    std::string title(Content& content) const override { return iso_title(content); }
    InnerDates dates(Content& content) const override { return iso_dates(content); }
    ContentDetails details(Content& content) const override { return iso_media_details(content); }
    std::string_view extension(Content& content) const override {
        Cursor start(content);
        const auto brand = major_brand(start.peek(12));
        if (brand >> 8 == box_type("3gp ") >> 8) return "3gp";
        return brand == box_type("M4V ") ? "m4v" : std::string_view();
    }
    Check check(Content& content, const CheckLimits&) const override { return IsoCheck(content).run(); }
};

/// What comes after the length of the first box, of films and of HEIF pictures.
bool may_be_boxes(Bytes first) {
    const auto type = load<boost::endian::big_uint32_buf_t>(first, 4);
    if (!type) return false;
    switch (type->value()) {
        case box_type("ftyp"):
        case box_type("moov"):
        case box_type("mdat"):
        case box_type("wide"):
        case box_type("pnot"):
            return true;
        default:
            return false;
    }
}

constexpr Format rows[] = {
    {.word = "mp4",
     .name = "MPEG-4 video",
     .kind = Kind::video,
     .extensions = " mp4 m4v 3gp ",
     .shared = " mp4 ",
     .family = "iso media",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .filling = Filling::dense,
     .holds_files = true},
    {.word = "m4a",
     .name = "MPEG-4 sound",
     .kind = Kind::audio,
     .extensions = " m4a ",
     .shared = " m4a ",
     .family = "iso media",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .filling = Filling::dense,
     .holds_files = true},
    {.word = "mov",
     .name = "QuickTime video",
     .kind = Kind::video,
     .extensions = " mov ",
     .shared = " mov ",
     .family = "iso media",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .filling = Filling::dense,
     .holds_files = true},
};

}  // namespace

FormatRows iso_media_formats() {
    static const IsoMedia reader;
    return {rows, &reader, may_be_boxes};
}

}  // namespace undershelf::content
