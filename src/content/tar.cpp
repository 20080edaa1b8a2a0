// tar (POSIX.1-1988, ustar, and the older form): heads of 512 bytes with a sum over themselves, each before
// its member's data in whole blocks, then two blocks of zeros, mostly filled up to a record of 20 blocks.
// Nothing covers the data.

#include <array>
#include <cstring>
#include <numeric>

#include "content/readers.hpp"

namespace undershelf::content {

namespace {

constexpr std::size_t block = 512, record = 20 * block;

struct Head {
    char name[100], mode[8], uid[8], gid[8], size[12], mtime[12], chksum[8];
    char typeflag;
    char linkname[100], magic[6], version[2], uname[32], gname[32], devmajor[8], devminor[8], prefix[155],
        filler[12];
};
static_assert(sizeof(Head) == block);

/// Octal digits, or, with the first bit set, a number in base 256.
std::optional<std::uint64_t> number_in(const char* field, std::size_t length) {
    std::uint64_t out = 0;
    if (static_cast<std::uint8_t>(field[0]) & 0x80) {
        for (std::size_t i = 4; i < length; ++i) out = out << 8 | static_cast<std::uint8_t>(field[i]);
        return out;
    }
    std::size_t at = 0;
    while (at < length && field[at] == ' ') ++at;
    bool any = false;
    for (; at < length && field[at] >= '0' && field[at] <= '7'; ++at, any = true)
        out = out * 8 + static_cast<std::uint64_t>(field[at] - '0');
    return any || at == length || field[at] == 0 ? std::optional(out) : std::nullopt;
}

/// A head whose sum holds; bytes were summed as signed ones, too.
bool is_head(Bytes bytes) {
    const auto head = load<Head>(bytes);
    if (!head || head->name[0] == 0) return false;
    const auto told = number_in(head->chksum, sizeof head->chksum);
    std::uint64_t sum = 0;
    std::int64_t signed_sum = 0;
    for (std::size_t i = 0; i < block; ++i) {
        const std::uint8_t byte =
            i >= offsetof(Head, chksum) && i < offsetof(Head, typeflag) ? ' ' : bytes[i];
        sum += byte;
        signed_sum += static_cast<std::int8_t>(byte);
    }
    return told && (*told == sum || static_cast<std::int64_t>(*told) == signed_sum);
}

class Tar final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        return {"tar", first.size() >= block && is_head(first.first(block)) ? 0.9 : 0.0};
    }

    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "tar";
        out.strength = Strength::weak;
        Cursor at(content);
        for (;;) {
            const auto start = at.at();
            const auto bytes = at.take(block);
            if (bytes.size() < block) return out.fails(start, "it ends before its end mark");
            if (all_zero(bytes)) {
                const auto second = at.take(block);
                if (second.size() < block || !all_zero(second))
                    return out.fails(start, "its end mark is cut off");
                return out.ends(filled_up(at));
            }
            if (!is_head(bytes)) return out.fails(start, "no member's head stands where one should");
            const auto head = *load<Head>(bytes);
            // Links have a size at times, and no data.
            const bool has_data = head.typeflag != '1' && head.typeflag != '2';
            const auto size = has_data ? number_in(head.size, sizeof head.size).value_or(0) : 0;
            const auto padded = (size + block - 1) / block * block;
            if (padded < size || padded > content.size() - at.at())
                return out.fails(start, "the data of a member are cut off");
            at.go_to(at.at() + padded);
        }
    }

  private:
    /// Zeros up to the end of a record belong to it.
    static std::uint64_t filled_up(Cursor& at) {
        const auto end = at.at();
        const auto full = (end + record - 1) / record * record;
        const auto rest = at.peek(static_cast<std::size_t>(full - end));
        return rest.size() == full - end && all_zero(rest) ? full : end;
    }
};

}  // namespace

const FormatReader& tar() {
    static const Tar reader;
    return reader;
}

}  // namespace undershelf::content
