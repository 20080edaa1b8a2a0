// ZIP (the format's application note): members, each with a head, its data and their CRC-32, then a directory
// of them, then an end record. Office documents, e-books and Java archives are ZIP files, told apart by what
// they hold.

#include <fmt/format.h>
#include <zlib.h>

#include <algorithm>

#include "content/archive/inflate.hpp"
#include "content/archive/members.hpp"
#include "content/archive/zip_details.hpp"
#include "content/archive/zip_heads.hpp"
#include "content/archive/zip_structures.hpp"
#include "content/archive/zip_words.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/titles.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;
using boost::endian::little_uint64_buf_t;

/// Which of the formats that are ZIP files it is, by the names of its members.
class Nature {
  public:
    /// `start`: the first bytes of what the member holds.
    void member(std::string_view name, Bytes start) {
        if (name == "mimetype") {
            const auto type = text_of(start);
            if (type.starts_with("application/epub+zip")) found_ = "epub";
            if (type.starts_with("application/vnd.oasis.opendocument.text")) found_ = "odt";
            if (type.starts_with("application/vnd.oasis.opendocument.spreadsheet")) found_ = "ods";
            if (type.starts_with("application/vnd.oasis.opendocument.presentation")) found_ = "odp";
        }
        content_types_ |= name == "[Content_Types].xml";
        if (name == "META-INF/MANIFEST.MF" && found_.empty()) found_ = "jar";
        if (part_.empty()) {
            if (name.starts_with("word/")) part_ = "docx";
            if (name.starts_with("xl/")) part_ = "xlsx";
            if (name.starts_with("ppt/")) part_ = "pptx";
        }
    }
    std::string_view format() const {
        if (content_types_ && !part_.empty()) return part_;
        return found_.empty() ? "zip" : found_;
    }

  private:
    std::string_view found_, part_;
    bool content_types_ = false;
};

class ZipCheck {
  public:
    ZipCheck(Content& content, const CheckLimits& limits)
        : content_(content), at_(content), output_(limits.most_output) {}

    Check run() {
        out_.strength = Strength::strong;
        while (begins_with(at_.peek(4), member_mark)) {
            if (!read_member()) return finish();
        }
        if (!find_directory() || !read_directory()) return finish();
        return finish();
    }

  private:
    Check finish() {
        out_.format = nature_.format();
        const auto size = out_.complete ? out_.holds_to : content_.size();
        out_.strength =
            heads_.consistent() ? strong_unless(heads_.uncovered() + unchecked_, size) : Strength::fair;
        // Of members that are encrypted or packed in another way only the lengths are known.
        if (unchecked_ > size / 50) out_.strength = Strength::weak;
        return out_;
    }
    bool fails(std::uint64_t at, std::string why) {
        out_.fails(at, std::move(why));
        return false;
    }

    bool read_member() {
        const auto start = at_.at();
        at_.take(4);
        const auto head = at_.take_structure<LocalHead>();
        const auto name_bytes = head ? at_.take(head->name_length.value()) : Bytes();
        if (!head || name_bytes.size() < head->name_length.value())
            return fails(start, "the head of a member is cut off");
        const std::string name(name_bytes.begin(), name_bytes.end());
        const auto extra = at_.take(head->extra_length.value());
        if (extra.size() < head->extra_length.value()) return fails(start, "the head of a member is cut off");
        auto compressed = std::uint64_t{head->compressed_size.value()};
        const bool large = compressed == 0xFFFFFFFF || head->size.value() == 0xFFFFFFFF;
        if (large) compressed = large_size(extra, head->size.value() == 0xFFFFFFFF).value_or(compressed);
        const auto data = at_.at();
        start_.clear();
        crc_.reset();
        size_.reset();
        const auto name_print = crc32_of(bytes_of(name));
        const auto more = zip_extra_of(extra);
        const bool follow = head->flags.value() & sizes_follow && head->compressed_size.value() == 0;
        const auto method = head->method.value();
        if (head->flags.value() & encrypted || (method != stored && method != deflated)) {
            if (follow)
                return fails(data, fmt::format("the length of its member {} is not told", shown(name)));
            unchecked_ += compressed;
            if (!skip(compressed)) return fails(data, fmt::format("its member {} is cut off", shown(name)));
        } else if (!read_data(name, method == deflated, compressed, follow, head->crc.value())) {
            return false;
        }
        const auto packed = at_.at() - data;
        heads_.add({start, packed, size_, name_print, crc_, more, head->version.value(), head->flags.value(),
                    method, head->time.value(), head->date.value()},
                   *head, large);
        if (head->flags.value() & sizes_follow && !skip_descriptor(large, packed))
            return fails(at_.at(), fmt::format("its member {} is cut off", shown(name)));
        nature_.member(name, start_);
        ++members_;
        out_.proven_to = at_.at();
        return true;
    }

    /// The length in the extra field of long members (section 4.5.3).
    static std::optional<std::uint64_t> large_size(Bytes extra, bool has_size) {
        for (std::size_t at = 0; at + 4 <= extra.size();) {
            const auto id = load<little_uint16_buf_t>(extra, at)->value();
            const std::size_t length = load<little_uint16_buf_t>(extra, at + 2)->value();
            if (id == 1) {
                const auto size = load<little_uint64_buf_t>(extra, at + 4 + (has_size ? 8 : 0));
                return size ? std::optional(size->value()) : std::nullopt;
            }
            at += 4 + length;
        }
        return std::nullopt;
    }

    bool skip(std::uint64_t bytes) {
        if (bytes > content_.size() - at_.at()) return false;
        at_.go_to(at_.at() + bytes);
        return true;
    }

    bool read_data(const std::string& name, bool deflate, std::uint64_t compressed, bool follow,
                   std::uint32_t crc) {
        const auto data = at_.at();
        auto sum = crc32(0, nullptr, 0);
        const auto add = [&](Bytes bytes) {
            sum = crc32(sum, bytes.data(), static_cast<uInt>(bytes.size()));
            const auto more = std::min(bytes.size(), start_bytes - std::min(start_bytes, start_.size()));
            start_.insert(start_.end(), bytes.begin(), bytes.begin() + static_cast<std::ptrdiff_t>(more));
        };
        if (deflate) {
            const auto r = inflate_at(at_, Wrapping::raw, output_, add);
            size_ = r.output;
            if (r.end == InflateEnd::too_much) {
                out_.finished = false;
                return fails(data, yields_too_much);
            }
            if (r.end == InflateEnd::broken) out_.noticed_at = r.input_end;
            if (r.end != InflateEnd::whole)
                return fails(r.end == InflateEnd::cut ? r.input_end : data,
                             fmt::format("the data of its member {} {}", shown(name),
                                         r.end == InflateEnd::cut ? "end early" : "make no sense"));
        } else {
            if (follow)
                return fails(data, fmt::format("the length of its member {} is not told", shown(name)));
            for (auto left = compressed; left > 0;) {
                const auto part =
                    at_.take(static_cast<std::size_t>(std::min<std::uint64_t>(left, Cursor::window)));
                if (part.empty()) return fails(data, fmt::format("its member {} is cut off", shown(name)));
                add(part);
                left -= part.size();
            }
            size_ = compressed;
        }
        if (follow) {
            const bool marked = begins_with(at_.peek(4), descriptor_mark);
            const auto told = load<little_uint32_buf_t>(at_.peek(8), marked ? 4 : 0);
            if (!told) return fails(at_.at(), fmt::format("its member {} is cut off", shown(name)));
            crc = told->value();
        } else if (at_.at() - data != compressed) {
            return fails(data,
                         fmt::format("its member {} has another length than its head says", shown(name)));
        }
        if (sum != crc)
            return fails(data, fmt::format("the checksum of its member {} does not hold", shown(name)));
        crc_ = crc;
        return true;
    }

    /// Section 4.3.9: the signature may be missing, and lengths have eight bytes in long members.
    bool skip_descriptor(bool large, std::uint64_t packed) {
        const std::size_t marked = begins_with(at_.peek(4), descriptor_mark) ? 4 : 0;
        for (const bool wide : {large, !large}) {
            const auto length = marked + (wide ? 20 : 12);
            const auto bytes = at_.peek(length + 4);
            if (bytes.size() != length + 4 || !begins_with(bytes.subspan(length), "PK"sv)) continue;
            const auto number = [&](std::size_t i) {
                return wide ? load<little_uint64_buf_t>(bytes, marked + 4 + 8 * i)->value()
                            : std::uint64_t{load<little_uint32_buf_t>(bytes, marked + 4 + 4 * i)->value()};
            };
            heads_.expect(number(0) == packed && (!size_ || number(1) == *size_));
            at_.take(length);
            return true;
        }
        return false;
    }

    /// Other data may follow the members, such as a signature of the whole file.
    bool find_directory() {
        const auto start = at_.at();
        members_end_ = start;
        constexpr std::uint64_t furthest = 1 << 20;
        while (at_.at() - start <= furthest) {
            const auto bytes = at_.peek(4);
            if (bytes.size() < 4) break;
            if (begins_with(bytes, directory_mark) || begins_with(bytes, end_mark)) return true;
            at_.take(1);
        }
        return fails(start, "neither a member nor its directory is where one should be");
    }

    bool read_directory() {
        const auto start = at_.at();
        std::uint64_t listed = 0;
        while (begins_with(at_.peek(4), directory_mark)) {
            const auto entry = at_.at();
            at_.take(4);
            const auto head = at_.take_structure<DirectoryHead>();
            const auto name = head ? at_.take(head->name_length.value()) : Bytes();
            if (!head || name.size() < head->name_length.value())
                return fails(entry, "its directory is cut off");
            const std::string name_kept(name.begin(), name.end());
            const auto extra = at_.take(head->extra_length.value());
            if (extra.size() < head->extra_length.value() || !heads_.knows(*head, bytes_of(name_kept), extra))
                return fails(entry, extra.size() < head->extra_length.value()
                                        ? "its directory is cut off"
                                        : "its directory describes another member than there is");
            if (!skip(head->comment_length.value())) return fails(entry, "its directory is cut off");
            ++listed;
        }
        const auto directory_end = at_.at();
        if (begins_with(at_.peek(4), end64_mark)) {
            const auto bytes = at_.peek(12);
            const auto length = bytes.size() == 12 ? load<little_uint64_buf_t>(bytes, 4)->value() : ~0ull;
            if (length > 1 << 20 || !skip(12 + length))
                return fails(directory_end, "its end record is cut off");
        }
        if (begins_with(at_.peek(4), locator64_mark) && !skip(20))
            return fails(directory_end, "its end record is cut off");
        const auto end = at_.at();
        if (!begins_with(at_.peek(4), end_mark)) return fails(end, "its end record is missing");
        at_.take(4);
        const auto record = at_.take_structure<EndRecord>();
        if (!record || !skip(record->comment_length.value())) return fails(end, "its end record is cut off");
        heads_.end(*record, start, directory_end, listed);
        // What is between the members and their directory, the long record, and the comment.
        heads_.leaves(start - members_end_ + (at_.at() - directory_end - 22));
        if (listed != members_ ||
            (record->entries.value() != 0xFFFF && record->entries.value() != (listed & 0xFFFF)))
            return fails(start, "its directory lists other members than there are");
        out_.ends(at_.at());
        return true;
    }

    static Bytes bytes_of(const std::string& text) {
        return {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()};
    }
    static std::string shown(const std::string& name) {
        return name.size() > 60 ? name.substr(0, 60) + "..." : name;
    }

    static constexpr std::size_t start_bytes = 80;
    Content& content_;
    Cursor at_;
    Check out_;
    Nature nature_;
    std::optional<std::uint32_t> crc_;   ///< of the member under way, where it was worked out
    ByteVector start_;                   ///< of what the member under way holds
    std::optional<std::uint64_t> size_;  ///< of it, unpacked
    std::uint64_t members_ = 0, members_end_ = 0, unchecked_ = 0;
    ZipHeads heads_;
    OutputBound output_;
};

class Zip final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        if (begins_with(first, "PK\5\6"sv))
            return {"zip", first.size() >= 22 && first[8] == 0 && first[10] == 0 ? 0.9 : 0.0};
        if (!begins_with(first, member_mark)) return {};
        const auto head = load<LocalHead>(first, 4);
        return {"zip",
                head && head->name_length.value() > 0 && head->name_length.value() <= 4096 ? 0.95 : 0.5};
    }
    std::string title(Content& content) const override { return zip_title(content); }
    InnerDates dates(Content& content) const override { return zip_dates(content); }
    ContentDetails details(Content& content) const override { return zip_content_details(content); }
    void text(Content& content, const TakeText& take) const override { zip_words(content, take); }
    void outline(Content& content, const TakeText& take) const override { zip_outline(content, take); }
    Check check(Content& content, const CheckLimits& limits) const override {
        return ZipCheck(content, limits).run();
    }
};

constexpr Format zipped(std::string_view word, std::string_view name, Kind kind,
                        std::string_view extensions) {
    return {.word = word,
            .name = name,
            .kind = kind,
            .extensions = extensions,
            .family = "zip",
            .strength = Strength::strong,
            .delay = 64 * KiB,
            .filling = Filling::no_zeros,
            .holds_files = true};
}

constexpr OtherKind others[] = {{Kind::document, " docm xlsm dotx vsdx odg pages numbers key "},
                                {Kind::program, " apk "}};
constexpr Format any_zip() {
    auto out =
        zipped("zip", "ZIP archive", Kind::archive, " zip docm xlsm dotx vsdx odg apk pages numbers key ");
    out.others = others;
    out.shared = " key pages numbers ";
    out.marks = "PK";
    return out;
}

constexpr Format rows[] = {
    any_zip(),
    zipped("docx", "Word document", Kind::document, " docx "),
    zipped("xlsx", "Excel workbook", Kind::document, " xlsx "),
    zipped("pptx", "PowerPoint presentation", Kind::document, " pptx "),
    zipped("odt", "OpenDocument text", Kind::document, " odt "),
    zipped("ods", "OpenDocument spreadsheet", Kind::document, " ods "),
    zipped("odp", "OpenDocument presentation", Kind::document, " odp "),
    zipped("epub", "EPUB book", Kind::document, " epub "),
    zipped("jar", "Java archive", Kind::program, " jar "),
};

}  // namespace

FormatRows zip_formats() {
    static const Zip reader;
    return {rows, &reader};
}

}  // namespace undershelf::content
