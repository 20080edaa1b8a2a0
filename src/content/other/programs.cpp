// Programs: ELF (System V ABI, chapter 4) and PE ([PE/COFF] 2 to 4). Their heads tell of sections and
// segments and where each is; nothing covers what is in them.

#include <fmt/format.h>

#include <algorithm>

#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/media_units.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;
using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;

/// Numbers of an ELF file, in its own order and width.
class ElfNumbers {
  public:
    ElfNumbers(Content& content, bool big_endian, bool wide)
        : content_(content), big_endian_(big_endian), wide_(wide) {}
    std::uint64_t number(std::uint64_t at, std::size_t bytes) {
        ByteVector raw(bytes);
        if (content_.read(at, raw) < bytes) return 0;
        std::uint64_t out = 0;
        for (std::size_t i = 0; i < bytes; ++i) out = out << 8 | raw[big_endian_ ? i : bytes - 1 - i];
        return out;
    }
    /// A field that is an address or an offset.
    std::uint64_t place(std::uint64_t at) { return number(at, wide_ ? 8 : 4); }

  private:
    Content& content_;
    bool big_endian_, wide_;
};

/// e_machine (System V ABI, chapter 4, and its supplements).
std::string elf_machine(std::uint64_t number) {
    switch (number) {
        case 3:
            return "x86";
        case 8:
            return "MIPS";
        case 20:
        case 21:
            return "PowerPC";
        case 40:
            return "ARM";
        case 62:
            return "x86-64";
        case 183:
            return "ARM (AArch64)";
        case 243:
            return "RISC-V";
        default:
            return fmt::format("number {}", number);
    }
}

class Elf final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        const bool sane = begins_with(first,
                                      "\x7f"
                                      "ELF"sv) &&
                          first.size() >= 52 && first[4] >= 1 && first[4] <= 2 && first[5] >= 1 &&
                          first[5] <= 2 && first[6] == 1;
        return {"elf", sane ? 1.0 : 0.0};
    }

    void outline(Content& content, const TakeText& take) const override {
        Cursor start(content);
        const auto first = start.peek(64);
        if (first.size() < 20) return;
        ElfNumbers numbers(content, first[5] == 2, first[4] == 2);
        // e_type and e_machine.
        const auto type = numbers.number(16, 2);
        constexpr const char* kinds[] = {"ELF file", "object file", "program", "program or library",
                                         "core dump"};
        take(fmt::format("{} for Linux or another Unix\nprocessor: {}, {} bits\n",
                         kinds[type < std::size(kinds) ? type : 0], elf_machine(numbers.number(18, 2)),
                         first[4] == 2 ? 64 : 32));
    }

    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "elf";
        out.strength = Strength::weak;
        Cursor start(content);
        const auto first = start.peek(64);
        const bool wide = first[4] == 2, big_endian = first[5] == 2;
        ElfNumbers numbers(content, big_endian, wide);
        const auto segments = numbers.place(wide ? 32 : 28), sections = numbers.place(wide ? 40 : 32);
        const std::uint64_t counts = wide ? 54 : 42;
        const auto segment_size = numbers.number(counts, 2), segment_count = numbers.number(counts + 2, 2);
        const auto section_size = numbers.number(counts + 4, 2),
                   section_count = numbers.number(counts + 6, 2);
        std::uint64_t end = wide ? 64 : 52;
        const auto reach = [&](std::uint64_t at, std::uint64_t size) {
            if (at > content.size() || size > content.size() - at) return false;
            end = std::max(end, at + size);
            return true;
        };
        // Without its tables nothing vouches for what is before them.
        if (!reach(segments, segment_size * segment_count) || !reach(sections, section_size * section_count))
            return out.fails(64, "it ends before its tables");
        for (std::uint64_t i = 0; i < section_count; ++i) {
            const auto at = sections + i * section_size;
            constexpr std::uint64_t no_bits = 8;
            if (numbers.number(at + 4, 4) == no_bits) continue;
            if (!reach(numbers.place(at + (wide ? 24 : 16)), numbers.place(at + (wide ? 32 : 20))))
                return out.fails(std::min<std::uint64_t>(64, at), "a section of it is after its end");
        }
        for (std::uint64_t i = 0; i < segment_count; ++i) {
            const auto at = segments + i * segment_size;
            if (!reach(numbers.place(at + (wide ? 8 : 4)), numbers.place(at + (wide ? 32 : 16))))
                return out.fails(64, "a segment of it is after its end");
        }
        return readable(content, 0, end) ? out.ends(end) : out.fails(0, "bytes of it are missing");
    }
};

struct CoffHead {
    char signature[4];
    little_uint16_buf_t machine, sections;
    little_uint32_buf_t time, symbols, symbol_count;
    little_uint16_buf_t optional_size, characteristics;
};
struct SectionHead {
    char name[8];
    little_uint32_buf_t virtual_size, address, raw_size, raw_at, relocations, lines;
    little_uint16_buf_t relocation_count, line_count;
    little_uint32_buf_t characteristics;
};
static_assert(sizeof(SectionHead) == 40);

/// Machine of the file's head (PE/COFF, 3.3.1).
std::string coff_machine(unsigned number) {
    switch (number) {
        case 0x14C:
            return "x86";
        case 0x1C4:
            return "ARM";
        case 0x8664:
            return "x86-64";
        case 0xAA64:
            return "ARM (AArch64)";
        default:
            return fmt::format("number {:#x}", number);
    }
}

class Pe final : public FormatReader {
    /// IMAGE_FILE_DLL of the file's characteristics (PE/COFF, 3.3.2).
    static constexpr unsigned library = 0x2000;

  public:
    Recognised recognise(Bytes first) const override {
        if (!begins_with(first, "MZ"sv)) return {};
        const auto at = load<little_uint32_buf_t>(first, 0x3C);
        const bool here = at && at->value() < first.size();
        if (here && begins_with(first.subspan(at->value()), "PE\0\0"sv)) return {"pe", 1};
        return {"pe", at && !here && at->value() < (1 << 20) ? 0.5 : 0.0};
    }

    std::string_view extension(Content& content) const override {
        Cursor at(content, 0x3C);
        const auto place = at.take_structure<little_uint32_buf_t>();
        at.go_to(place ? place->value() : 0);
        const auto head = at.take_structure<CoffHead>();
        return head && (head->characteristics.value() & library) ? "dll" : "exe";
    }

    void outline(Content& content, const TakeText& take) const override {
        Cursor at(content, 0x3C);
        const auto place = at.take_structure<little_uint32_buf_t>();
        at.go_to(place ? place->value() : 0);
        const auto head = at.take_structure<CoffHead>();
        if (!head) return;
        // A time before the format's own, or none, is what builds that can be repeated leave.
        const auto built = time_from_unix(head->time.value());
        const bool told = built && head->time.value() > 631'152'000;  // 1990
        take(fmt::format("Windows {}\nprocessor: {}\n{}",
                         head->characteristics.value() & library ? "library" : "program",
                         coff_machine(head->machine.value()),
                         told ? fmt::format("built: {}\n", iso8601(*built)) : std::string()));
    }

    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "pe";
        out.strength = Strength::weak;
        Cursor at(content, 0x3C);
        const auto place = at.take_structure<little_uint32_buf_t>();
        at.go_to(place ? place->value() : 0);
        const auto head = at.take_structure<CoffHead>();
        if (!head) return out.fails(0, "it ends within its head");
        const auto optional = at.take(head->optional_size.value());
        auto end = at.at() + head->sections.value() * sizeof(SectionHead);
        for (unsigned i = 0; i < head->sections.value(); ++i) {
            const auto section = at.take_structure<SectionHead>();
            if (!section) return out.fails(0, "the table of its sections is cut off");
            if (section->raw_size.value() > 0)
                end = std::max<std::uint64_t>(
                    end, std::uint64_t{section->raw_at.value()} + section->raw_size.value());
        }
        end = std::max({end, certificates_end(optional), symbols_end(content, *head)});
        if (end > content.size()) return out.fails(content.size(), "it ends before its last section");
        return readable(content, 0, end) ? out.ends(end) : out.fails(0, "bytes of it are missing");
    }

  private:
    /// Some linkers leave symbols after the sections, and their names, which begin with their own length.
    static std::uint64_t symbols_end(Content& content, const CoffHead& head) {
        constexpr std::uint64_t symbol_size = 18;
        if (head.symbols.value() == 0) return 0;
        const auto names = head.symbols.value() + head.symbol_count.value() * symbol_size;
        Cursor at(content, names);
        const auto length = at.take_structure<little_uint32_buf_t>();
        return names + (length ? length->value() : 4);
    }
    /// Signatures are after the sections; the fifth data directory tells where ([PE/COFF] 3.4.3).
    static std::uint64_t certificates_end(Bytes optional) {
        const auto magic = load<little_uint16_buf_t>(optional);
        constexpr unsigned wide = 0x20B;
        const std::size_t directory = magic && magic->value() == wide ? 112 + 4 * 8 : 96 + 4 * 8;
        const auto at = load<little_uint32_buf_t>(optional, directory),
                   size = load<little_uint32_buf_t>(optional, directory + 4);
        return at && size && size->value() > 0 ? std::uint64_t{at->value()} + size->value() : 0;
    }
};

constexpr Format elf_rows[] = {
    {.word = "elf",
     .name = "ELF program",
     .kind = Kind::program,
     .extensions = " elf so o ko ",
     .shared = " o so ",
     .family = "elf",
     .strength = Strength::weak,
     .delay = 64 * KiB,
     .marks = "\x7f"
              "E"sv},
};

}  // namespace

FormatRows elf_formats() {
    static const Elf reader;
    return {elf_rows, &reader};
}
namespace {

constexpr Format pe_rows[] = {
    {.word = "pe",
     .name = "Windows program",
     .kind = Kind::program,
     .extensions = " exe dll sys ",
     .family = "pe",
     .strength = Strength::weak,
     .delay = 64 * KiB,
     .holds_files = true,
     .marks = "MZ"sv},
};

}  // namespace

FormatRows pe_formats() {
    static const Pe reader;
    return {pe_rows, &reader};
}

}  // namespace undershelf::content
