// Matroska and WebM (RFC 9559): one segment of elements, most of them clusters of blocks. Writers may put a
// CRC-32 first into any of them.

#include <zlib.h>

#include <algorithm>
#include <array>
#include <initializer_list>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/matroska_blocks.hpp"
#include "content/media/media_details.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

enum Id : std::uint32_t {
    ebml = 0x1A45DFA3,
    doc_type = 0x4282,
    segment = 0x18538067,
    seek_head = 0x114D9B74,
    info = 0x1549A966,
    tracks = 0x1654AE6B,
    cluster = 0x1F43B675,
    cues = 0x1C53BB6B,
    attachments = 0x1941A469,
    chapters = 0x1043A770,
    tags = 0x1254C367,
    filling = 0xEC,
    crc_32 = 0xBF,
    simple_block = 0xA3,
    block_group = 0xA0,
    block = 0xA1,
};

bool one_of(std::uint32_t id, std::initializer_list<std::uint32_t> ids) {
    return std::find(ids.begin(), ids.end(), id) != ids.end();
}
bool in_segment(std::uint32_t id) {
    return one_of(id, {seek_head, info, tracks, cluster, cues, attachments, chapters, tags, filling, crc_32});
}
/// Timestamp, silent tracks, position, size of the one before, blocks and their groups.
bool in_cluster(std::uint32_t id) {
    return one_of(id, {0xE7, 0x5854, 0xA7, 0xAB, simple_block, block_group, 0xAF, filling, crc_32});
}
/// A block, what is added to it, duration, references, state, padding, slices.
bool in_group(std::uint32_t id) {
    return one_of(id,
                  {block, 0xA2, 0x75A1, 0x9B, 0xFA, 0xFB, 0xFD, 0xA4, 0x75A2, 0x8E, 0xC8, filling, crc_32});
}

constexpr std::uint64_t most_tracks = 1 << 20;  ///< bytes of the element that tells of them

std::string matroska_title(Content& content) {
    constexpr std::uint32_t head_id = 0x1A45DFA3, segment = 0x18538067, info = 0x1549A966, title = 0x7BA9;
    std::uint64_t at = 0;
    for (int elements = 0; elements < 32; ++elements) {
        const auto head = ebml_head(tag_bytes(content, at, largest_ebml_head));
        if (!head) return {};
        at += head->head;
        if (head->id == segment) continue;  // into it
        if (head->id == info) {
            const auto body = tag_bytes(content, at, head->size);
            for (auto rest = Bytes(body); const auto child = ebml_head(rest);) {
                if (child->size > rest.size() - child->head) break;
                const auto value = rest.subspan(child->head, static_cast<std::size_t>(child->size));
                if (child->id == title) return as_title(text_of(value));
                rest = rest.subspan(child->head + value.size());
            }
            return {};
        }
        if (head->open_ended || (head->id != head_id && head->size > most_tags)) return {};
        at += head->size;
    }
    return {};
}

class MatroskaCheck {
  public:
    explicit MatroskaCheck(Content& content) : content_(content) {}

    Check run() {
        out_.format = "mkv";
        out_.strength = Strength::weak;
        if (!read_head()) return out_.fails(0, "its head makes no sense");
        const auto head = head_at(at_);
        if (!head || head->id != segment) return out_.fails(at_, "its segment is missing");
        at_ += head->head;
        const auto limit = head->open_ended ? content_.size() : at_ + head->size;
        if (limit < at_) return out_.fails(at_, "its segment makes no sense");
        const bool held = walk_segment(limit, head->open_ended);
        out_.strength = strength();
        if (!held) return out_.fails(at_, why_);
        if (!tracks_) return out_.fails(at_, "nothing in it describes its tracks");
        return out_.ends(at_);
    }

  private:
    std::optional<EbmlHead> head_at(std::uint64_t at) {
        std::array<std::uint8_t, largest_ebml_head> bytes;
        return ebml_head(Bytes(bytes).first(content_.read(at, bytes)));
    }

    bool fails(std::uint64_t at, const char* why) {
        // What went wrong may have begun in the block before, which is seen through at its start alone.
        at_ = block_size_ > most_unseen && block_at_ < at ? block_at_ : at;
        why_ = why;
        return false;
    }

    Strength strength() const {
        // A head of some hundred bytes is never summed up.
        const bool strong = strong_unless(at_ - std::min(at_, summed_), at_) == Strength::strong;
        return strong ? Strength::strong : density_.strength();
    }

    bool read_head() {
        Cursor here(content_);
        const auto bytes = here.peek(4096);
        const auto head = ebml_head(bytes);
        if (!head || head->id != ebml || head->size > bytes.size() - head->head) return false;
        auto body = bytes.subspan(head->head, static_cast<std::size_t>(head->size));
        while (const auto e = ebml_head(body)) {
            if (e->size > body.size() - e->head) return false;
            const auto value = body.subspan(e->head, static_cast<std::size_t>(e->size));
            if (e->id == doc_type && begins_with(value, "webm")) out_.format = "webm";
            body = body.subspan(e->head + value.size());
        }
        at_ = head->head + head->size;
        return true;
    }

    /// Up to `limit`, or, where that is not told, to what is no part of a segment.
    bool walk_segment(std::uint64_t limit, bool open_ended) {
        while (at_ < limit) {
            const auto start = at_;
            const auto head = head_at(start);
            if (!head || !in_segment(head->id)) {
                if (open_ended && tracks_) return true;
                return fails(start, "no element is where one should be");
            }
            const auto body = start + head->head;
            if (head->open_ended) {
                if (head->id != cluster) return fails(start, "an element has no size");
                at_ = body;
                if (!walk_blocks(limit, true)) return false;
                continue;
            }
            if (head->size > limit - std::min(limit, body))
                return fails(start, "an element goes on after its parent's end");
            if (head->size > content_.size() - std::min(body, content_.size()))
                return fails(start, "it ends before its last element");
            if (!read_element(*head, start, body)) return false;
            at_ = body + head->size;
        }
        return true;
    }

    bool read_element(const EbmlHead& head, std::uint64_t start, std::uint64_t body) {
        const auto end = body + head.size;
        if (const auto sum = sum_in(body, end)) {
            if (!sum_holds(*sum, end)) return fails(start, "a checksum in it does not hold");
            summed_ += end - start;
            density_.add_decoded(end - start);
            out_.proven_to = end;
            if (head.id != tracks) return true;
        }
        if (head.id == cluster) {
            at_ = body;
            return walk_blocks(end, false);
        }
        if (head.id == tracks && !tracks_) {
            if (head.size > most_tracks) return fails(start, "what describes its tracks makes no sense");
            ByteVector bytes(static_cast<std::size_t>(head.size));
            if (content_.read(body, bytes) < bytes.size()) return fails(start, "bytes of it are missing");
            tracks_.emplace(bytes);
        }
        if (head.id == filling || head.id == crc_32) return readable_or_fail(start, head.size + head.head);
        return walk_children(body, end);
    }

    bool readable_or_fail(std::uint64_t at, std::uint64_t size) {
        return readable(content_, at, size) || fails(at, "bytes of it are missing");
    }

    /// Elements whose meaning does not matter, one after the other up to `end`.
    bool walk_children(std::uint64_t at, std::uint64_t end) {
        while (at < end) {
            const auto head = head_at(at);
            if (!head || head->open_ended || head->size > end - std::min(end, at + head->head))
                return fails(at, "an element goes on after its parent's end");
            if (!readable_or_fail(at, head->head + head->size)) return false;
            density_.add(head->head + head->size);
            at += head->head + head->size;
        }
        return true;
    }

    /// The blocks of a cluster, from where the walk is.
    bool walk_blocks(std::uint64_t end, bool open_ended) {
        while (at_ < end) {
            const auto head = head_at(at_);
            if (!head || !in_cluster(head->id)) {
                if (open_ended) return true;
                return fails(at_, "no block is where one should be");
            }
            const auto body = at_ + head->head;
            if (head->open_ended || head->size > end - std::min(end, body))
                return fails(at_, open_ended ? "it ends before its last block"
                                             : "a block goes on after its cluster's end");
            if (head->id == simple_block) {
                if (!block_holds(at_, body, head->size)) return false;
            } else if (head->id == block_group) {
                if (!walk_group(body, body + head->size)) return false;
            } else if (!readable_or_fail(at_, head->head + head->size)) {
                return false;
            }
            at_ = body + head->size;
        }
        return true;
    }

    bool walk_group(std::uint64_t at, std::uint64_t end) {
        while (at < end) {
            const auto head = head_at(at);
            const auto body = head ? at + head->head : at;
            if (!head || !in_group(head->id) || head->open_ended || head->size > end - std::min(end, body))
                return fails(at, "a group of blocks makes no sense");
            if (head->id == block) {
                if (!block_holds(at, body, head->size)) return false;
            } else if (!readable_or_fail(at, head->head + head->size)) {
                return false;
            }
            at = body + head->size;
        }
        return true;
    }

    bool block_holds(std::uint64_t start, std::uint64_t body, std::uint64_t size) {
        if (!tracks_) return fails(start, "a block is before its tracks");
        if (!tracks_->block_holds(content_, body, size, density_))
            return fails(start, "a block of it makes no sense");
        block_at_ = start;
        block_size_ = size;
        return true;
    }

    struct Sum {
        std::uint64_t from;
        std::uint32_t stored;
    };
    /// RFC 8794, 11.3.1: the first child, over what follows it in its parent.
    std::optional<Sum> sum_in(std::uint64_t body, std::uint64_t end) {
        std::array<std::uint8_t, 6> bytes;
        if (end - body < 6 || content_.read(body, bytes) < 6 || bytes[0] != crc_32 || bytes[1] != 0x84)
            return std::nullopt;
        return Sum{body + 6, load<boost::endian::little_uint32_buf_t>(bytes, 2)->value()};
    }
    bool sum_holds(const Sum& sum, std::uint64_t end) {
        Cursor here(content_, sum.from);
        auto crc = crc32(0, nullptr, 0);
        while (here.at() < end) {
            const auto part =
                here.take(static_cast<std::size_t>(std::min<std::uint64_t>(end - here.at(), Cursor::window)));
            if (part.empty()) return false;
            crc = crc32(crc, part.data(), static_cast<uInt>(part.size()));
        }
        return crc == sum.stored;
    }

    Content& content_;
    Check out_;
    std::uint64_t at_ = 0;  ///< where the walk is, or what is wrong
    const char* why_ = "";
    std::optional<MatroskaTracks> tracks_;
    Density density_;
    std::uint64_t block_at_ = 0, block_size_ = 0;  ///< the last one that held
    std::uint64_t summed_ = 0;                     ///< bytes that checksums cover
};

class Matroska final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto head = ebml_head(first);
        if (!head || head->id != ebml) return {};
        const auto text = text_of(first).substr(0, 128);
        if (text.find("webm") != text.npos) return {"webm", 1};
        return {"mkv", text.find("matroska") != text.npos ? 1.0 : 0.0};
    }
    std::string title(Content& content) const override { return matroska_title(content); }
    ContentDetails details(Content& content) const override { return matroska_details(content); }
    Check check(Content& content, const CheckLimits&) const override { return MatroskaCheck(content).run(); }
};

constexpr OtherKind sounds[] = {{Kind::audio, " mka "}};
constexpr Format rows[] = {
    {.word = "mkv",
     .name = "Matroska video",
     .kind = Kind::video,
     .extensions = " mkv mka ",
     .others = sounds,
     .family = "matroska",
     .strength = Strength::strong,
     .delay = 64 * KiB,
     .filling = Filling::dense,
     .holds_files = true,
     .marks = "\x1a\x45"sv},
    {.word = "webm",
     .name = "WebM video",
     .kind = Kind::video,
     .extensions = " webm ",
     .family = "matroska",
     .strength = Strength::strong,
     .delay = 64 * KiB,
     .filling = Filling::dense,
     .holds_files = true},
};

}  // namespace

FormatRows matroska_formats() {
    static const Matroska reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
