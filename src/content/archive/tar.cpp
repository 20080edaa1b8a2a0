// tar (POSIX.1-1988, ustar, and the older form): heads of 512 bytes with a sum over themselves, each before
// its member's data in whole blocks, then two blocks of zeros, mostly filled up to a record of 20 blocks.
// Nothing covers the data.

#include <algorithm>
#include <array>
#include <charconv>
#include <cstring>
#include <numeric>
#include <utility>

#include "base/text.hpp"
#include "content/archive/members.hpp"
#include "content/format.hpp"
#include "content/list.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

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
    bool all_our_own() const override { return true; }
    Recognised recognise(Bytes first) const override {
        return {"tar", first.size() >= block && is_head(first.first(block)) ? 0.9 : 0.0};
    }

    Check check(Content& content, const CheckLimits&) const override {
        Check out;
        out.format = "tar";
        out.strength = Strength::weak;
        Cursor at(content);
        std::optional<std::uint64_t> next_size;  // of the next member, where an extended head tells it
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
            if (!is_head(bytes)) return out.fails(start, "no member's head is where one should be");
            const auto head = *load<Head>(bytes);
            // Links have a size at times, and no data.
            const bool has_data = head.typeflag != '1' && head.typeflag != '2';
            const auto told = number_in(head.size, sizeof head.size).value_or(0);
            const auto size = !has_data ? 0 : is_about_next(head) ? told : next_size.value_or(told);
            if (!is_about_next(head)) next_size.reset();
            if (head.typeflag == extended) next_size = size_in_records(content, at.at(), size);
            if (head.typeflag == gnu_sparse && !skip_sparse_maps(at, bytes[more_sparse_in_head]))
                return out.fails(start, "the map of a member's holes is cut off");
            const auto padded = (size + block - 1) / block * block;
            if (padded < size || padded > content.size() - at.at())
                return out.fails(start, "the data of a member are cut off");
            at.go_to(at.at() + padded);
        }
    }

    InnerDates dates(Content& content) const override {
        int members = 0;
        std::uint64_t newest = 0;
        each_head(content, [&](const Head& head, std::uint64_t, std::uint64_t) {
            constexpr int most_members = 10'000;
            newest = std::max(newest, number_in(head.mtime, sizeof head.mtime).value_or(0));
            return ++members < most_members;
        });
        return {{}, time_from_unix(newest), "that of its newest member"};
    }

    void outline(Content& content, const TakeText& take) const override {
        MemberLines out(take);
        std::string long_name;
        each_head(content, [&](const Head& head, std::uint64_t data, std::uint64_t size) {
            if (head.typeflag == 'L') {
                long_name = text_at(content, data, size);
            } else if (head.typeflag == extended) {
                if (const auto path = value_in_records(content, data, size, "path")) long_name = *path;
            } else if (!is_about_next(head)) {
                auto name = long_name.empty() ? name_of(head) : std::exchange(long_name, {});
                const bool folder = head.typeflag == '5';
                return out.add(composed(name), folder ? std::nullopt : std::optional(size));
            }
            return true;
        });
    }

  private:
    /// Gives each head, where its data are and how many bytes, until `take` has enough.
    template <class Take>
    static void each_head(Content& content, const Take& take) {
        Cursor at(content);
        for (;;) {
            const auto bytes = at.take(block);
            if (bytes.size() < block || !is_head(bytes)) return;
            const auto head = *load<Head>(bytes);
            const auto size = number_in(head.size, sizeof head.size).value_or(0);
            if (size > content.size() || !take(head, at.at(), size)) return;
            at.go_to(at.at() + (size + block - 1) / block * block);
        }
    }
    static std::string text_at(Content& content, std::uint64_t at, std::uint64_t size) {
        constexpr std::uint64_t most = 64 << 10;
        ByteVector bytes(static_cast<std::size_t>(std::min(size, most)));
        bytes.resize(content.read(at, bytes));
        return std::string(text_of(bytes).substr(0, text_of(bytes).find('\0')));
    }
    /// Section 10.1.1 of POSIX.1-1988: what does not fit goes before it.
    static std::string name_of(const Head& head) {
        const auto text = [](const char* field, std::size_t most) {
            return std::string(field, ::strnlen(field, most));
        };
        const auto name = text(head.name, sizeof head.name);
        const bool ustar = text(head.magic, 5) == "ustar" && head.magic[5] == 0;
        const auto before = ustar ? text(head.prefix, sizeof head.prefix) : std::string();
        return before.empty() ? name : before + "/" + name;
    }
    static constexpr char extended = 'x';
    /// Extended heads and long names of the member after them (pax, GNU tar).
    static bool is_about_next(const Head& head) {
        return head.typeflag == extended || head.typeflag == 'g' || head.typeflag == 'L' ||
               head.typeflag == 'K';
    }
    /// A value among the records `LENGTH KEY=VALUE` of an extended head (POSIX.1-2017, pax, 4.18).
    static std::optional<std::string> value_in_records(Content& content, std::uint64_t at, std::uint64_t size,
                                                       std::string_view key) {
        constexpr std::uint64_t most = 64 << 10;
        ByteVector bytes(static_cast<std::size_t>(std::min(size, most)));
        bytes.resize(content.read(at, bytes));
        for (auto text = text_of(bytes); !text.empty();) {
            std::size_t length = 0;
            const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), length);
            const auto digits = static_cast<std::size_t>(end - text.data());
            if (ec != std::errc{} || length <= digits + 1 || length > text.size()) break;
            auto line = text.substr(digits + 1, length - digits - 1);
            if (line.ends_with('\n')) line.remove_suffix(1);
            if (line.starts_with(key) && line.substr(key.size()).starts_with('='))
                return std::string(line.substr(key.size() + 1));
            text.remove_prefix(length);
        }
        return std::nullopt;
    }
    static std::optional<std::uint64_t> size_in_records(Content& content, std::uint64_t at,
                                                        std::uint64_t size) {
        const auto value = value_in_records(content, at, size, "size");
        std::uint64_t out = 0;
        if (!value || std::from_chars(value->data(), value->data() + value->size(), out).ec != std::errc{})
            return std::nullopt;
        return out;
    }

    // GNU tar's older way with holes: where a head has no room for all of them, blocks with more follow it.
    static constexpr char gnu_sparse = 'S';
    static constexpr std::size_t more_sparse_in_head = 482, more_sparse_in_map = 504;

    static bool skip_sparse_maps(Cursor& at, bool more) {
        while (more) {
            const auto map = at.take(block);
            if (map.size() < block) return false;
            more = map[more_sparse_in_map] != 0;
        }
        return true;
    }
    /// Zeros up to the end of a record belong to it.
    static std::uint64_t filled_up(Cursor& at) {
        const auto end = at.at();
        const auto full = (end + record - 1) / record * record;
        const auto rest = at.peek(static_cast<std::size_t>(full - end));
        return rest.size() == full - end && all_zero(rest) ? full : end;
    }
};

/// The sum in a tar member's head (POSIX.1-1988, 10.1.1): digits and spaces, or zeros after them.
bool may_be_tar(Bytes first) {
    return first.size() >= block && first[0] != 0 && first[149] != 0 &&
           std::all_of(first.begin() + 148, first.begin() + 156,
                       [](std::uint8_t b) { return b == 0 || b == ' ' || (b >= '0' && b <= '7'); });
}

constexpr Format rows[] = {
    {.word = "tar",
     .name = "tar archive",
     .kind = Kind::archive,
     .extensions = " tar ",
     .family = "tar",
     .strength = Strength::weak,
     .delay = 64 * KiB,
     .holds_files = true},
};

}  // namespace

FormatRows tar_formats() {
    static const Tar reader;
    return {rows, &reader, may_be_tar};
}

}  // namespace undershelf::content
