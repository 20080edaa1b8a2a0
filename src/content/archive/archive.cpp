// 7z, CAB and RAR: their heads tell where they end. Of the first two libarchive reads all that is in them,
// with the sums that go with it; of RAR the heads alone are read, which have sums of their own.

#include <archive.h>
#include <archive_entry.h>
#include <zlib.h>

#include <algorithm>
#include <cerrno>
#include <memory>

#include "content/archive/libarchive.hpp"
#include "content/archive/members.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/memory.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;
using boost::endian::little_uint64_buf_t;

/// What libarchive could not do for want of memory says nothing about the archive.
Check& wrong(archive* a, Check& out, const char* why) {
    const char* said = archive_error_string(a);
    const std::string_view words = said ? said : "";
    if (archive_errno(a) == ENOMEM || words.find("memory") != words.npos || words.find("alloc") != words.npos)
        UsualMemory::was_too_little();
    return out.fails(0, why);
}

/// Reads every member. Where members are encrypted, or packed in a way that is not read, only the heads
/// count.
Check read_members(Content& content, std::uint64_t end, const CheckLimits& limits, Check out) {
    const UsualMemory memory(usual_archive_memory);
    ArchiveSource source(content, end);
    const std::unique_ptr<archive, decltype(&archive_read_free)> a(archive_read_new(), archive_read_free);
    if (!a) throw std::bad_alloc();
    archive_read_support_format_7zip(a.get());
    archive_read_support_format_cab(a.get());
    if (!source.open(a.get())) return wrong(a.get(), out, "its heads make no sense");
    OutputBound output(limits.most_output);
    archive_entry* entry = nullptr;
    for (;;) {
        const int next = archive_read_next_header(a.get(), &entry);
        if (next == ARCHIVE_EOF) break;
        if (next < ARCHIVE_WARN) return wrong(a.get(), out, "the heads of its members make no sense");
        if (archive_entry_is_data_encrypted(entry)) {
            out.strength = Strength::fair;
            continue;
        }
        const void* bytes = nullptr;
        std::size_t size = 0;
        la_int64_t offset = 0;
        for (int got = ARCHIVE_OK;
             (got = archive_read_data_block(a.get(), &bytes, &size, &offset)) != ARCHIVE_EOF;) {
            // A wrong checksum after sound data is a warning to libarchive.
            if (got < ARCHIVE_OK)
                return wrong(a.get(), out,
                             "the data of a member make no sense, or their checksum does not hold");
            if (!output.add(size, end)) {
                out.finished = false;
                return out.fails(0, yields_too_much);
            }
        }
    }
    if (out.strength == Strength::strong) out.proven_to = end;
    return out.ends(end);
}

std::uint32_t crc_of(Bytes bytes) {
    return static_cast<std::uint32_t>(crc32(0, bytes.data(), static_cast<uInt>(bytes.size())));
}

/// 7zFormat.txt, SignatureHeader.
struct SevenZipHead {
    char signature[6];
    std::uint8_t major, minor;
    little_uint32_buf_t start_crc;
    little_uint64_buf_t next_offset, next_size;
    little_uint32_buf_t next_crc;
};
static_assert(sizeof(SevenZipHead) == 32);

class SevenZip final : public FormatReader {
  public:
    void outline(Content& content, const TakeText& take) const override { archive_outline(content, take); }
    Recognised recognise(Bytes first) const override {
        return {"7z", begins_with(first, "7z\xbc\xaf\x27\x1c"sv) ? 1.0 : 0.0};
    }
    Check check(Content& content, const CheckLimits& limits) const override {
        Check out;
        out.format = "7z";
        out.strength = Strength::strong;
        Cursor at(content);
        const auto bytes = at.peek(sizeof(SevenZipHead));
        const auto head = load<SevenZipHead>(bytes);
        if (!head || crc_of(bytes.subspan(12, 20)) != head->start_crc.value())
            return out.fails(0, "the checksum of its head does not hold");
        const auto room = content.size() - sizeof(SevenZipHead);
        if (head->next_offset.value() > room || head->next_size.value() > room - head->next_offset.value())
            return out.fails(content.size(), "it ends before its directory");
        return read_members(
            content, sizeof(SevenZipHead) + head->next_offset.value() + head->next_size.value(), limits, out);
    }
};

/// [MS-CAB] 2.1, CFHEADER.
struct CabHead {
    char signature[4];
    little_uint32_buf_t reserved1, cbCabinet, reserved2, coffFiles, reserved3;
    std::uint8_t versionMinor, versionMajor;
    little_uint16_buf_t cFolders, cFiles, flags, setID, iCabinet;
};
static_assert(sizeof(CabHead) == 36);

class Cab final : public FormatReader {
  public:
    void outline(Content& content, const TakeText& take) const override { archive_outline(content, take); }
    Recognised recognise(Bytes first) const override {
        const auto head = load<CabHead>(first);
        return {"cab", head && begins_with(first, "MSCF\0\0\0\0"sv) && head->versionMajor == 1 ? 1.0 : 0.0};
    }
    Check check(Content& content, const CheckLimits& limits) const override {
        Check out;
        out.format = "cab";
        out.strength = Strength::strong;
        Cursor at(content);
        const auto head = at.take_structure<CabHead>();
        if (!head) return out.fails(0, "it ends within its head");
        if (head->cbCabinet.value() > content.size())
            return out.fails(content.size(), "it ends before its last data");
        auto check = read_members(content, head->cbCabinet.value(), limits, out);
        // Names and dates of members have no sum.
        if (check.complete)
            check.strength = std::min(
                check.strength, strong_unless(length_of_names(content, *head), head->cbCabinet.value()));
        return check;
    }

  private:
    /// Bytes of the heads of all members, [MS-CAB] 2.3, but for lengths and places.
    static std::uint64_t length_of_names(Content& content, const CabHead& head) {
        constexpr std::size_t fixed = 16, places = 10, longest_name = 257;
        Cursor at(content, head.coffFiles.value());
        std::uint64_t out = sizeof(CabHead);
        for (unsigned i = 0; i < head.cFiles.value(); ++i) {
            if (at.take(fixed).size() < fixed) break;
            const auto name = at.peek(longest_name);
            const auto end = std::find(name.begin(), name.end(), std::uint8_t{0});
            const auto length = static_cast<std::size_t>(end - name.begin()) + 1;
            at.take(length);
            out += fixed - places + length;
        }
        return out;
    }
};

class Rar final : public FormatReader {
  public:
    void outline(Content& content, const TakeText& take) const override { archive_outline(content, take); }
    Recognised recognise(Bytes first) const override {
        return {"rar",
                begins_with(first, "Rar!\x1a\x07\x00"sv) || begins_with(first, "Rar!\x1a\x07\x01\x00"sv)
                    ? 1.0
                    : 0.0};
    }
    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "rar";
        out.strength = Strength::weak;
        Cursor at(content);
        const bool fifth = at.peek(8).size() == 8 && at.peek(8)[6] == 1;
        at.take(fifth ? 8 : 7);
        for (;;) {
            const auto start = at.at();
            const auto last = fifth ? next_block_5(at) : next_block(at);
            if (!last) {
                constexpr std::uint64_t sector = 512, usual_head = 64;  // bytes; what is more are names
                out.odd_head = start + usual_head <= sector;
                return out.fails(start, "no block is where one should be");
            }
            if (at.at() > content.size()) return out.fails(start, "a block is cut off");
            if (*last) return out.ends(at.at());
        }
    }

  private:
    /// Goes on after a block; true for the last one, nothing when none is there.
    static std::optional<bool> next_block(Cursor& at) {
        struct Head {
            little_uint16_buf_t crc;
            std::uint8_t type;
            little_uint16_buf_t flags, size;
        };
        const auto start = at.at();
        const auto head = load<Head>(at.peek(sizeof(Head)));
        if (!head || head->type < 0x72 || head->type > 0x7B || head->size.value() < 7) return std::nullopt;
        const auto bytes = at.peek(head->size.value());
        if (bytes.size() < head->size.value()) return std::nullopt;
        // The sum of the mark and of old comments is over something else.
        const bool summed =
            head->type == 0x73 || head->type == 0x74 || head->type == 0x7A || head->type == 0x7B;
        if (summed && (crc_of(bytes.subspan(2)) & 0xFFFF) != head->crc.value()) return std::nullopt;
        std::uint64_t data = 0;
        if (head->flags.value() & 0x8000 || head->type == 0x74 || head->type == 0x7A) {
            const auto low = load<little_uint32_buf_t>(bytes, 7);
            if (!low) return std::nullopt;
            data = low->value();
            const bool large = head->flags.value() & 0x100 && (head->type == 0x74 || head->type == 0x7A);
            if (const auto high = large ? load<little_uint32_buf_t>(bytes, 32) : std::nullopt)
                data |= std::uint64_t{high->value()} << 32;
        }
        if (data >> 56) return std::nullopt;
        at.go_to(start + head->size.value() + data);
        return head->type == 0x7B;
    }

    /// Numbers of seven bits a byte, the lowest first.
    static std::optional<std::uint64_t> number(Bytes bytes, std::size_t& at) {
        std::uint64_t out = 0;
        for (int shift = 0; at < bytes.size() && shift < 63; shift += 7) {
            const auto byte = bytes[at++];
            out |= std::uint64_t{byte & 0x7Fu} << shift;
            if (!(byte & 0x80)) return out;
        }
        return std::nullopt;
    }
    static std::optional<bool> next_block_5(Cursor& at) {
        const auto start = at.at();
        auto bytes = at.peek(16);
        const auto crc = load<little_uint32_buf_t>(bytes);
        std::size_t i = 4;
        const auto size = number(bytes, i);
        if (!crc || !size || *size == 0 || *size > Cursor::window - 16) return std::nullopt;
        const auto whole = i + static_cast<std::size_t>(*size);
        bytes = at.peek(whole);
        if (bytes.size() < whole || crc_of(bytes.subspan(4)) != crc->value()) return std::nullopt;
        const auto type = number(bytes, i), flags = number(bytes, i);
        if (!type || !flags || *type < 1 || *type > 5) return std::nullopt;
        if (*flags & 1 && !number(bytes, i)) return std::nullopt;
        std::uint64_t data = 0;
        if (*flags & 2) {
            const auto told = number(bytes, i);
            if (!told || *told >> 56) return std::nullopt;
            data = *told;
        }
        at.go_to(start + whole + data);
        return *type == 5;
    }
};

constexpr Format seven_zip_rows[] = {
    {.word = "7z",
     .name = "7z archive",
     .kind = Kind::archive,
     .extensions = " 7z ",
     .family = "7z",
     .strength = Strength::strong,
     .filling = Filling::dense,
     .holds_files = true,
     .marks = "7z"sv},
};

}  // namespace

FormatRows seven_zip_formats() {
    static const SevenZip reader;
    return {seven_zip_rows, &reader};
}
namespace {

constexpr Format cab_rows[] = {
    {.word = "cab",
     .name = "cabinet archive",
     .kind = Kind::archive,
     .extensions = " cab ",
     .family = "cab",
     .strength = Strength::strong,
     .filling = Filling::dense,
     .holds_files = true,
     .marks = "MS"sv},
};

}  // namespace

FormatRows cab_formats() {
    static const Cab reader;
    return {cab_rows, &reader};
}
namespace {

constexpr Format rar_rows[] = {
    {.word = "rar",
     .name = "RAR archive",
     .kind = Kind::archive,
     .extensions = " rar ",
     .family = "rar",
     .strength = Strength::weak,
     .delay = 64 * KiB,
     .filling = Filling::dense,
     .holds_files = true,
     .marks = "Ra"sv},
};

}  // namespace

FormatRows rar_formats() {
    static const Rar reader;
    return {rar_rows, &reader};
}

}  // namespace undershelf::content
