#include "content/document/ole_words.hpp"

#include <algorithm>

#include "base/text.hpp"
#include "content/document/compound_file.hpp"
#include "content/text/text.hpp"
#include "content/titles.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;

constexpr std::uint64_t most_bytes = 64 << 20;  ///< of one stream

std::uint32_t u32(Bytes bytes, std::size_t at) {
    const auto n = load<little_uint32_buf_t>(bytes, at);
    return n ? n->value() : 0;
}
std::uint16_t u16(Bytes bytes, std::size_t at) {
    const auto n = load<little_uint16_buf_t>(bytes, at);
    return n ? n->value() : std::uint16_t{0};
}
Bytes part_of(Bytes bytes, std::uint64_t at, std::uint64_t size) {
    if (at >= bytes.size()) return {};
    return bytes.subspan(static_cast<std::size_t>(at),
                         static_cast<std::size_t>(std::min<std::uint64_t>(size, bytes.size() - at)));
}
std::string narrow(Bytes bytes) {
    return as_utf8(bytes, Encoding::eight_bit);
}

ByteVector stream_bytes(Content& content, const CompoundFile& file, const CompoundStream& stream) {
    if (file.is_small(stream)) return file.read_small(stream);
    ByteVector out(static_cast<std::size_t>(std::min(stream.size, most_bytes)));
    out.resize(CompoundStreamContent(content, file, stream).read(0, out));
    return out;
}

/// [MS-DOC] 2.4.1: pieces, each of which is somewhere in the text's stream, one or two bytes a character.
void word_text(Bytes text, Bytes table, Pieces& out) {
    constexpr std::size_t place_of_pieces = 0x1A2;
    auto at = std::size_t{u32(text, place_of_pieces)};
    constexpr std::uint8_t formatting = 1, pieces = 2;
    while (at < table.size() && table[at] == formatting) at += 3u + u16(table, at + 1);
    if (at >= table.size() || table[at] != pieces) return;
    const auto list = part_of(table, at + 5, u32(table, at + 1));
    constexpr std::size_t character_place = 4, descriptor = 8;
    const auto count = list.size() < 4 ? 0 : (list.size() - 4) / (character_place + descriptor);
    for (std::size_t i = 0; i < count && !out.enough(); ++i) {
        const auto from = u32(list, i * 4), to = u32(list, i * 4 + 4);
        const auto place = u32(list, (count + 1) * 4 + i * descriptor + 2);
        constexpr std::uint32_t one_byte = 0x40000000;
        if (to <= from) continue;
        const std::uint64_t characters = to - from;
        if (place & one_byte)
            out.add(narrow(part_of(text, (place & ~one_byte) / 2, characters)));
        else
            out.add(from_utf16(part_of(text, place, characters * 2), false));
    }
}

/// [MS-XLS] 2.5.293: strings one after the other, over the bounds of records; after a bound the width of
/// characters is told again.
class SharedStrings {
  public:
    SharedStrings(std::vector<Bytes> records, Pieces& out) : records_(std::move(records)), out_(out) {}
    void read() {
        at_ = 8;  // after two counts
        while (record_ < records_.size() && !out_.enough()) {
            if (left() == 0 && !next_record()) return;
            const auto characters = number(2);
            const auto flags = number(1);
            constexpr unsigned wide = 1, extended = 4, rich = 8;
            const auto runs = flags & rich ? number(2) : 0;
            const auto more = flags & extended ? number(4) : 0;
            text(characters, flags & wide);
            out_.add("\n");
            skip(std::uint64_t{runs} * 4 + more);
        }
    }

  private:
    std::size_t left() const { return records_[record_].size() - std::min(at_, records_[record_].size()); }
    bool next_record() {
        ++record_;
        at_ = 0;
        return record_ < records_.size();
    }
    std::uint32_t number(std::size_t bytes) {
        std::uint32_t out = 0;
        for (std::size_t i = 0; i < bytes && record_ < records_.size(); ++i) {
            if (left() == 0 && !next_record()) break;
            out |= std::uint32_t{records_[record_][at_++]} << (8 * i);
        }
        return out;
    }
    void text(std::uint64_t characters, bool wide) {
        while (characters > 0 && record_ < records_.size()) {
            const std::uint64_t width = wide ? 2 : 1;
            const auto here = std::min<std::uint64_t>(characters, left() / width);
            const auto bytes = part_of(records_[record_], at_, here * width);
            out_.add(wide ? from_utf16(bytes, false) : narrow(bytes));
            at_ += bytes.size();
            characters -= here;
            if (characters == 0) return;
            if (!next_record()) return;
            wide = number(1) & 1;
        }
    }
    void skip(std::uint64_t bytes) {
        while (bytes > 0 && record_ < records_.size()) {
            const auto here = std::min<std::uint64_t>(bytes, left());
            at_ += static_cast<std::size_t>(here);
            bytes -= here;
            if (bytes > 0 && !next_record()) return;
        }
    }

    std::vector<Bytes> records_;
    Pieces& out_;
    std::size_t record_ = 0, at_ = 0;
};

void sheet_text(Bytes stream, Pieces& out) {
    constexpr unsigned shared_strings = 0xFC, continued = 0x3C, label = 0x204;
    std::vector<Bytes> strings;
    bool in_strings = false;
    for (std::size_t at = 0; at + 4 <= stream.size() && !out.enough();) {
        const auto type = u16(stream, at);
        const auto data = part_of(stream, at + 4, u16(stream, at + 2));
        in_strings = type == shared_strings || (in_strings && type == continued);
        if (in_strings) strings.push_back(data);
        if (type == label) out.add(narrow(part_of(data, 8, u16(data, 6))) + "\n");
        at += 4 + data.size();
    }
    SharedStrings(std::move(strings), out).read();
}

void slides_text(Bytes stream, Pieces& out) {
    constexpr unsigned wide_text = 0x0FA0, narrow_text = 0x0FA8, name = 0x0FBA;
    for (std::size_t at = 0; at + 8 <= stream.size() && !out.enough();) {
        const bool container = (stream[at] & 15) == 15;
        const auto type = u16(stream, at + 2);
        const auto data = part_of(stream, at + 8, u32(stream, at + 4));
        at += 8;
        if (container) continue;
        if (type == wide_text || type == name) out.add(from_utf16(data, false) + "\n");
        if (type == narrow_text) out.add(from_latin_1(data) + "\n");
        at += data.size();
    }
}

}  // namespace

void ole_words(Content& content, const TakeText& take) {
    Pieces out(take);
    try {
        const CompoundFile file(content);
        for (const auto& s : file.streams()) {
            if (s.storage != 0 || out.enough()) continue;
            const bool text = s.name == "WordDocument", sheet = s.name == "Workbook" || s.name == "Book",
                       slides = s.name == "PowerPoint Document";
            if (!text && !sheet && !slides) continue;
            const auto bytes = stream_bytes(content, file, s);
            if (sheet) sheet_text(bytes, out);
            if (slides) slides_text(bytes, out);
            constexpr unsigned second_table = 0x0200;
            const auto* table =
                text ? file.stream(u16(bytes, 0x0A) & second_table ? "1Table" : "0Table", 0) : nullptr;
            if (table) word_text(bytes, stream_bytes(content, file, *table), out);
        }
    } catch (const CompoundWrong&) {
        // What it contradicts itself about, a check tells.
    }
    out.flush();
}

}  // namespace undershelf::content
