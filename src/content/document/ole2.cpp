// Older office documents: compound files ([MS-CFB]) told apart by their streams. Workbooks are one chain of
// records ([MS-XLS]), presentations another ([MS-PPT]); of texts ([MS-DOC]) the pages that tell their
// formatting are looked at, the characters themselves say nothing.

#include <algorithm>

#include "content/document/compound_file.hpp"
#include "content/document/ole_details.hpp"
#include "content/document/ole_words.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/media_units.hpp"
#include "content/picture/jpeg.hpp"
#include "content/picture/png.hpp"
#include "content/titles.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;

/// What came of a stream: where in the file it is wrong.
using WrongPlace = std::optional<CompoundWrong>;

std::uint32_t u32(Bytes bytes, std::size_t at = 0) {
    const auto n = load<little_uint32_buf_t>(bytes, at);
    return n ? n->value() : 0;
}

/// [MS-XLS] 2.1.4: records of a type, a length and data, in substreams between BOF and EOF.
WrongPlace check_workbook(CompoundStreamContent& stream, Density& density) {
    constexpr std::uint32_t begin_of_file = 0x0809, end_of_file = 0x000A;
    constexpr std::uint32_t most_data = 8224;  // bytes
    Cursor at(stream);
    std::uint64_t depth = 0;
    while (at.at() < stream.size()) {
        const auto start = at.at();
        const auto type = at.take_structure<little_uint16_buf_t>();
        const auto length = at.take_structure<little_uint16_buf_t>();
        const bool outside = depth == 0 && start > 0;
        // After the last substream is filling, as the writer found it.
        if (outside && (!type || type->value() != begin_of_file)) break;
        if (!type || !length || length->value() > most_data || (start == 0 && type->value() != begin_of_file))
            return CompoundWrong{stream.place_of(start), "no record is where one should be"};
        if (at.take(length->value()).size() < length->value())
            return CompoundWrong{stream.place_of(start), "a record of it is cut off"};
        if (type->value() == begin_of_file) ++depth;
        if (type->value() == end_of_file) --depth;
        density.add(4ull + length->value());
    }
    if (depth > 0) return CompoundWrong{stream.place_of(stream.size() - 1), "its last sheet has no end"};
    return std::nullopt;
}

/// [MS-PPT] 2.3.1: records of eight bytes and data, some of which are records again.
WrongPlace check_records(CompoundStreamContent& stream, Density& density) {
    std::vector<std::uint64_t> ends{stream.size()};
    constexpr std::size_t most_depth = 64;
    Cursor at(stream);
    while (at.at() < stream.size()) {
        while (ends.size() > 1 && at.at() == ends.back()) ends.pop_back();
        const auto start = at.at();
        const auto head = at.take(8);
        if (head.size() < 8) return CompoundWrong{stream.place_of(start), "a record of it is cut off"};
        const bool container = (head[0] & 15) == 15;
        const std::uint64_t length = u32(head, 4);
        if (length > ends.back() - std::min(ends.back(), at.at()) || ends.size() > most_depth)
            return CompoundWrong{stream.place_of(start), "no record is where one should be"};
        if (container) {
            ends.push_back(at.at() + length);
            density.add(8);
            continue;
        }
        const auto end = at.at() + length;
        while (at.at() < end) {
            if (at.take(static_cast<std::size_t>(std::min<std::uint64_t>(end - at.at(), Cursor::window)))
                    .empty())
                return CompoundWrong{stream.place_of(start), "bytes of it are missing"};
        }
        density.add(8 + length);
    }
    return std::nullopt;
}

/// [MS-ODRAW] 2.2.23: pictures after one or two sums of 16 bytes and a mark. False where one is broken.
bool picture_holds(CompoundStreamContent& stream, std::uint64_t at, std::uint64_t size, Density& density) {
    for (const std::uint64_t before : {17, 33}) {
        if (size <= before) break;
        PartOfContent picture(stream, at + before, size - before);
        Cursor start(picture);
        const auto first = start.peek(16);
        const auto* reader = jpeg().recognise(first).sure > 0  ? &jpeg()
                             : png().recognise(first).sure > 0 ? &png()
                                                               : nullptr;
        if (!reader) continue;
        density.add_decoded(size);
        return reader->check(picture, {}).complete;
    }
    density.add(size);
    return readable(stream, at, size);
}

/// The pictures of a presentation, one record each.
WrongPlace check_pictures(CompoundStreamContent& stream, Density& density) {
    for (std::uint64_t at = 0; at < stream.size();) {
        ByteVector head(8);
        if (stream.read(at, head) < head.size())
            return CompoundWrong{stream.place_of(at), "a record of it is cut off"};
        const std::uint64_t length = u32(head, 4);
        if (length > stream.size() - at - 8)
            return CompoundWrong{stream.place_of(at), "no record is where one should be"};
        if (!picture_holds(stream, at + 8, length, density))
            return CompoundWrong{stream.place_of(at), "a picture in it makes no sense"};
        at += 8 + length;
    }
    return std::nullopt;
}

constexpr std::size_t page = 512;  ///< bytes of a formatting page in a text

/// [MS-DOC] 2.9.33 and 2.9.38: ascending offsets, their number less one in the last byte.
bool is_formatting_page(Bytes bytes, std::uint64_t stream_size) {
    const std::size_t runs = bytes[page - 1];
    if (runs == 0 || (runs + 1) * 4 + runs > page - 1) return false;
    for (std::size_t i = 0; i < runs; ++i) {
        if (u32(bytes, i * 4) > u32(bytes, i * 4 + 4)) return false;
    }
    return u32(bytes, runs * 4) <= stream_size;
}

/// The formatting pages that a table ([MS-DOC] 2.8.5, 2.8.6) tells of.
WrongPlace check_pages(CompoundStreamContent& text, CompoundStreamContent& table, std::uint32_t at,
                       std::uint32_t bytes, Density& density, std::uint64_t& looked_at) {
    if (bytes < 4) return std::nullopt;
    if (at > table.size() || bytes > table.size() - at)
        return CompoundWrong{text.place_of(0), "its formatting is outside of its table"};
    const std::uint64_t pages = (bytes - 4) / 8;
    for (std::uint64_t i = 0; i < pages; ++i) {
        ByteVector number(4), content(page);
        if (table.read(at + (pages + 1 + i) * 4, number) < 4)
            return CompoundWrong{table.place_of(at), "bytes of it are missing"};
        const auto place = (u32(number) & 0x3FFFFF) * std::uint64_t{page};
        if (place + page > text.size())
            return CompoundWrong{table.place_of(at), "a page of its formatting is missing"};
        if (text.read(place, content) < page || !is_formatting_page(content, text.size()))
            return CompoundWrong{text.place_of(place), "a page of its formatting makes no sense"};
        density.add_decoded(page);
        looked_at += page;
    }
    return std::nullopt;
}

/// [MS-DOC] 2.5.1: the head of a text says which stream tells its formatting, and where in it.
WrongPlace check_text(Content& whole, const CompoundFile& file, const CompoundStream& self,
                      CompoundStreamContent& text, Density& density) {
    constexpr std::size_t head_size = 0x10A;  // bytes up to the places that are used here
    ByteVector head(head_size);
    if (text.read(0, head) < head_size || load<little_uint16_buf_t>(head)->value() != 0xA5EC)
        return CompoundWrong{text.place_of(0), "its text has no head"};
    const auto flags = load<little_uint16_buf_t>(head, 0x0A)->value();
    const auto version = load<little_uint16_buf_t>(head, 2)->value();
    constexpr unsigned encrypted = 0x0100, second_table = 0x0200;
    const auto* stream = file.stream(flags & second_table ? "1Table" : "0Table", self.storage);
    std::uint64_t looked_at = 0;
    constexpr unsigned word_97 = 0xC1;
    if (version >= word_97 && !(flags & encrypted)) {
        if (!stream) return CompoundWrong{text.place_of(0), "the table of its text is missing"};
        if (!file.is_small(*stream)) {
            CompoundStreamContent table(whole, file, *stream);
            for (const std::size_t place : {std::size_t{0xFA}, std::size_t{0x102}}) {
                if (auto wrong =
                        check_pages(text, table, u32(head, place), u32(head, place + 4), density, looked_at))
                    return wrong;
            }
        }
    }
    density.add_unseen(text.size() - std::min(text.size(), looked_at));
    return std::nullopt;
}

class Ole2 final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        return {"ole2", CompoundFile::begins(first) ? 1.0 : 0.0};
    }

    void text(Content& content, const TakeText& take) const override { ole_words(content, take); }
    std::string title(Content& content) const override { return ole_title(content); }
    InnerDates dates(Content& content) const override { return ole_dates(content); }
    ContentDetails details(Content& content) const override { return ole_content_details(content); }
    /// A mail of Outlook ([MS-OXMSG] 2.4).
    std::string_view extension(Content& content) const override {
        try {
            const CompoundFile file(content);
            return file.stream("__properties_version1.0", 0) ? "msg" : std::string_view();
        } catch (const CompoundWrong&) {
            return {};
        }
    }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "ole2";
        out.strength = Strength::weak;
        try {
            const CompoundFile file(content);
            Density density;
            density.add_decoded(file.structure_bytes());
            const auto wrong = check_streams(content, file, out, density);
            out.strength = density.strength();
            if (wrong) return out.fails(wrong->at, wrong->why);
            // The last sector may end with the bytes that its stream has there.
            return out.ends(std::min(file.end(), content.size()));
        } catch (const CompoundWrong& wrong) {
            return out.fails(wrong.at, wrong.why);
        }
    }

  private:
    static WrongPlace check_streams(Content& content, const CompoundFile& file, Check& out,
                                    Density& density) {
        for (const auto& s : file.streams()) {
            if (s.storage != 0) continue;  // of something embedded
            if (s.name == "WordDocument") out.format = "doc";
            if (s.name == "Workbook" || s.name == "Book") out.format = "xls";
            if (s.name == "PowerPoint Document") out.format = "ppt";
        }
        WrongPlace out_wrong;
        for (const auto& s : file.streams()) {
            // Small ones are in sectors of others, some hundred bytes each.
            if (file.is_small(s)) continue;
            CompoundStreamContent stream(content, file, s);
            const auto wrong = check_stream(content, file, s, stream, density);
            if (wrong && (!out_wrong || wrong->at < out_wrong->at)) out_wrong = wrong;
        }
        return out_wrong;
    }

    static WrongPlace check_stream(Content& content, const CompoundFile& file, const CompoundStream& s,
                                   CompoundStreamContent& stream, Density& density) {
        if (s.name == "Workbook" || s.name == "Book") return check_workbook(stream, density);
        if (s.name == "PowerPoint Document") return check_records(stream, density);
        if (s.name == "Pictures") return check_pictures(stream, density);
        if (s.name == "WordDocument") return check_text(content, file, s, stream, density);
        density.add_unseen(s.size);
        if (readable(stream, 0, s.size)) return std::nullopt;
        return CompoundWrong{stream.place_of(0), "bytes of it are missing"};
    }
};

constexpr OtherKind others[] = {{Kind::mail, " msg "}, {Kind::program, " msi "}};
constexpr Format rows[] = {
    {.word = "doc",
     .name = "Word document",
     .kind = Kind::document,
     .extensions = " doc dot ",
     .shared = " doc ",
     .family = "ole2",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .holds_files = true,
     .marks = "\xd0\xcf"sv},
    {.word = "xls",
     .name = "Excel workbook",
     .kind = Kind::document,
     .extensions = " xls ",
     .family = "ole2",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .holds_files = true},
    {.word = "ppt",
     .name = "PowerPoint presentation",
     .kind = Kind::document,
     .extensions = " ppt ",
     .family = "ole2",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .holds_files = true},
    {.word = "ole2",
     .name = "OLE2 document",
     .kind = Kind::document,
     .extensions = " ole msg msi pub vsd ",
     .others = others,
     .family = "ole2",
     .strength = Strength::weak,
     .delay = 64 * KiB,
     .holds_files = true},
};

}  // namespace

FormatRows ole2_formats() {
    static const Ole2 reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
