// Fonts: OpenType and TrueType (ISO/IEC 14496-22, 4.3 and 5), tables that a directory tells of, each with a
// sum over it; and WOFF (W3C, WOFF File Format 1.0), the same with each table deflated.

#include <fmt/format.h>

#include <algorithm>
#include <vector>

#include "content/archive/inflate.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
using boost::endian::big_uint16_buf_t;
using boost::endian::big_uint32_buf_t;

struct OffsetTable {
    big_uint32_buf_t version;
    big_uint16_buf_t tables, search_range, entry_selector, range_shift;
};
struct TableRecord {
    char tag[4];
    big_uint32_buf_t sum, offset, length;
};
struct WoffHead {
    char signature[4];
    big_uint32_buf_t flavor, length;
    big_uint16_buf_t tables, reserved;
    big_uint32_buf_t sfnt_size;
    big_uint16_buf_t major, minor;
    big_uint32_buf_t metadata, metadata_length, metadata_size, own, own_length;
};
static_assert(sizeof(WoffHead) == 44);
struct WoffRecord {
    char tag[4];
    big_uint32_buf_t offset, packed, length, sum;
};

constexpr std::uint32_t true_type = 0x00010000, apple_true_type = 0x74727565, open_type = 0x4F54544F;

/// A table's sum: of its big-endian numbers of 32 bits, zeros after its end. In `head` the font's own sum,
/// which is worked out last, counts as zero.
class TableSum {
  public:
    explicit TableSum(std::string_view tag) : is_head_(tag == "head") {}
    void take(Bytes bytes) {
        for (const auto b : bytes) {
            constexpr std::uint64_t own_sum = 8;
            const bool skipped = is_head_ && at_ >= own_sum && at_ < own_sum + 4;
            if (!skipped) sum_ += std::uint32_t{b} << (24 - 8 * (at_ % 4));
            ++at_;
        }
    }
    std::uint32_t sum() const { return sum_; }

  private:
    bool is_head_;
    std::uint64_t at_ = 0;
    std::uint32_t sum_ = 0;
};

/// Reads `size` bytes on; false when they are not all there.
bool sum_up(Cursor& at, std::uint64_t size, TableSum& sum) {
    while (size > 0) {
        const auto part = at.take(static_cast<std::size_t>(std::min<std::uint64_t>(size, Cursor::window)));
        if (part.empty()) return false;
        sum.take(part);
        size -= part.size();
    }
    return true;
}

constexpr std::size_t most_names = 64 << 10;  ///< bytes of a table of names

/// The full name in a table of names (ISO/IEC 14496-22, 5.2.8), in whatever language is first.
std::string full_name(Bytes table) {
    const auto u16 = [&](std::size_t at) -> std::size_t {
        const auto n = load<big_uint16_buf_t>(table, at);
        return n ? n->value() : 0;
    };
    constexpr std::size_t head = 6, record = 12, full_font_name = 4;
    const auto count = u16(2), texts = u16(4);
    for (std::size_t i = 0, at = head; i < count && at + record <= table.size(); ++i, at += record) {
        const auto platform = u16(at), length = u16(at + 8), from = texts + u16(at + 10);
        if (u16(at + 6) != full_font_name || from >= table.size()) continue;
        const auto text = table.subspan(from, std::min(length, table.size() - from));
        constexpr std::size_t macintosh = 1;
        return as_title(platform == macintosh ? from_latin_1(text) : from_utf16(text, true));
    }
    return {};
}

class Sfnt final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto head = load<OffsetTable>(first);
        const auto record = load<TableRecord>(first, sizeof(OffsetTable));
        if (!head || !record) return {};
        const auto version = head->version.value();
        if (version != true_type && version != apple_true_type && version != open_type) return {};
        const auto count = head->tables.value();
        const bool sane = count > 0 && count < 256 && (head->search_range.value() % 16) == 0 &&
                          is_tag(*record) &&
                          record->offset.value() >= sizeof(OffsetTable) + count * sizeof(TableRecord);
        return {version == open_type ? "otf" : "ttf", sane ? 0.95 : 0.0};
    }

    std::string title(Content& content) const override {
        Cursor at(content);
        const auto head = at.take_structure<OffsetTable>();
        for (unsigned i = 0; head && i < head->tables.value(); ++i) {
            const auto record = at.take_structure<TableRecord>();
            if (!record) break;
            if (std::string_view(record->tag, 4) != "name"sv) continue;
            ByteVector table(std::min<std::size_t>(record->length.value(), most_names));
            table.resize(content.read(record->offset.value(), table));
            return full_name(table);
        }
        return {};
    }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        Cursor at(content);
        const auto head = *at.take_structure<OffsetTable>();
        out.format = head.version.value() == open_type ? "otf" : "ttf";
        out.strength = Strength::strong;
        std::vector<TableRecord> tables;
        for (unsigned i = 0; i < head.tables.value(); ++i) {
            const auto record = at.take_structure<TableRecord>();
            if (!record || !is_tag(*record))
                return out.fails(sizeof(OffsetTable), "its directory makes no sense");
            tables.push_back(*record);
        }
        auto end = at.at();
        std::sort(tables.begin(), tables.end(), [](const TableRecord& a, const TableRecord& b) {
            return a.offset.value() < b.offset.value();
        });
        for (const auto& table : tables) {
            const std::string_view tag(table.tag, 4);
            const std::uint64_t offset = table.offset.value(), length = table.length.value();
            if (offset > content.size() || length > content.size() - offset)
                return out.fails(std::min(end, content.size()), "it ends before its last table");
            TableSum sum(tag);
            at.go_to(offset);
            if (!sum_up(at, length, sum)) return out.fails(offset, "bytes of it are missing");
            if (sum.sum() != table.sum.value())
                return out.fails(offset, fmt::format("the sum of its table {} does not hold", tag));
            end = std::max(end, offset + length);
            out.proven_to = end;
        }
        return out.ends(filled(content, end));
    }

  private:
    static bool is_tag(const TableRecord& record) {
        return std::all_of(std::begin(record.tag), std::end(record.tag),
                           [](char c) { return c >= ' ' && c <= '~'; });
    }
    /// The last table may be filled up to four bytes.
    static std::uint64_t filled(Content& content, std::uint64_t end) {
        ByteVector filling((4 - end % 4) % 4);
        return content.read(end, filling) == filling.size() && all_zero(filling) ? end + filling.size() : end;
    }
};

class Woff final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const auto head = load<WoffHead>(first);
        const bool sane =
            head && begins_with(first, "wOFF"sv) && head->reserved.value() == 0 && head->tables.value() > 0;
        return {"woff", sane ? 1.0 : 0.0};
    }

    std::string title(Content& content) const override {
        Cursor at(content);
        const auto head = at.take_structure<WoffHead>();
        for (unsigned i = 0; head && i < head->tables.value(); ++i) {
            const auto record = at.take_structure<WoffRecord>();
            if (!record) break;
            if (std::string_view(record->tag, 4) != "name"sv) continue;
            ByteVector table;
            PartOfContent packed(content, record->offset.value(), record->packed.value());
            Cursor from(packed);
            const auto take = [&](Bytes bytes) { table.insert(table.end(), bytes.begin(), bytes.end()); };
            OutputBound bound(most_names);
            if (record->packed.value() == record->length.value())
                take(from.peek(most_names));
            else
                inflate_at(from, Wrapping::zlib, bound, take);
            return full_name(table);
        }
        return {};
    }
    Check check(Content& content, const CheckLimits& limits) const override {
        Check out;
        out.format = "woff";
        out.strength = Strength::strong;
        Cursor at(content);
        const auto head = *at.take_structure<WoffHead>();
        const std::uint64_t end = head.length.value();
        if (end > content.size()) return out.fails(content.size(), "it ends before its length says");
        std::vector<WoffRecord> tables;
        for (unsigned i = 0; i < head.tables.value(); ++i) {
            const auto record = at.take_structure<WoffRecord>();
            if (!record) return out.fails(sizeof(WoffHead), "its directory is cut off");
            tables.push_back(*record);
        }
        std::sort(tables.begin(), tables.end(), [](const WoffRecord& a, const WoffRecord& b) {
            return a.offset.value() < b.offset.value();
        });
        for (const auto& table : tables) {
            if (!table_holds(content, table, end, limits))
                return out.fails(
                    std::min<std::uint64_t>(table.offset.value(), content.size()),
                    fmt::format("the sum of its table {} does not hold", std::string_view(table.tag, 4)));
            out.proven_to = std::uint64_t{table.offset.value()} + table.packed.value();
        }
        // Of the head the lengths count, of the directory all but the tags; after the tables nothing has a
        // sum.
        constexpr std::uint64_t free_in_head = 28, free_in_record = 4;
        out.strength = strong_unless(
            free_in_head + free_in_record * tables.size() + (end - std::min(end, out.proven_to)), end);
        Cursor behind(content, out.proven_to);
        if (!behind.pass(end - std::min(end, out.proven_to)))
            return out.fails(behind.at(), "bytes of it are missing");
        return out.ends(end);
    }

  private:
    static bool table_holds(Content& content, const WoffRecord& table, std::uint64_t end,
                            const CheckLimits& limits) {
        const std::uint64_t offset = table.offset.value(), packed = table.packed.value(),
                            length = table.length.value();
        if (offset > end || packed > end - offset || packed > length) return false;
        TableSum sum({table.tag, 4});
        if (packed == length) {
            Cursor at(content, offset);
            return sum_up(at, length, sum) && sum.sum() == table.sum.value();
        }
        PartOfContent stream(content, offset, packed);
        Cursor at(stream);
        OutputBound bound(std::min(limits.most_output, length));
        const auto done = inflate_at(at, Wrapping::zlib, bound, [&](Bytes bytes) { sum.take(bytes); });
        return done.end == InflateEnd::whole && done.output == length && sum.sum() == table.sum.value();
    }
};

constexpr Format sfnt_rows[] = {
    {.word = "ttf",
     .name = "TrueType font",
     .kind = Kind::other,
     .extensions = " ttf ",
     .family = "sfnt",
     .strength = Strength::strong,
     .delay = 64 * KiB,
     .marks = "\0\1trtt"sv},
    {.word = "otf",
     .name = "OpenType font",
     .kind = Kind::other,
     .extensions = " otf ",
     .family = "sfnt",
     .strength = Strength::strong,
     .delay = 64 * KiB,
     .marks = "OT"sv},
};

}  // namespace

FormatRows sfnt_formats() {
    static const Sfnt reader;
    return {sfnt_rows, &reader};
}
namespace {

constexpr Format woff_rows[] = {
    {.word = "woff",
     .name = "WOFF font",
     .kind = Kind::other,
     .extensions = " woff ",
     .family = "woff",
     .strength = Strength::strong,
     .delay = 64 * KiB,
     .marks = "wO"sv},
};

}  // namespace

FormatRows woff_formats() {
    static const Woff reader;
    return {woff_rows, &reader};
}

}  // namespace undershelf::content
