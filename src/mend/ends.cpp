#include "mend/ends.hpp"

#include <algorithm>
#include <iterator>

namespace undershelf {

namespace {

using namespace std::string_view_literals;

/// A mark that is among the last bytes of all files of a family.
struct EndMark {
    std::string_view family;  ///< as Format::family has it; or the format's word
    std::string_view mark;
    std::size_t
        within;  ///< it begins at most so many bytes before the end; its own length for exactly at the end
};
constexpr EndMark marks[] = {
    {"jpeg", "\xff\xd9"sv, 2}, {"png", "\0\0\0\0IEND\xae\x42\x60\x82"sv, 12},
    {"gif", ";"sv, 1},         {"zip", "PK\5\6"sv, 22},
    {"pdf", "%%EOF"sv, 64},    {"xz", "YZ"sv, 2},
};

const EndMark* mark_of(const Format& format) {
    const auto* const it = std::find_if(std::begin(marks), std::end(marks), [&](const EndMark& m) {
        return m.family == format.word || m.family == format.family;
    });
    return it == std::end(marks) ? nullptr : it;
}

}  // namespace

int fits_as_end(const Source& source, std::uint64_t cluster, std::uint32_t step, std::uint64_t size,
                const Format& format) {
    // Clusters may have 32 MiB: what is about its end is enough.
    constexpr std::uint64_t most_before = 512, most_after = 8192;
    const auto end = (size - 1) % step + 1, from = end - std::min(end, most_before);
    ByteVector bytes(static_cast<std::size_t>(std::min<std::uint64_t>(step, end + most_after) - from));
    source.read(cluster + from, bytes);
    const auto used = static_cast<std::size_t>(end - from);
    const auto last = Bytes(bytes).first(used), after = Bytes(bytes).subspan(used);
    const bool zeros = !after.empty() && all_zero(after);
    if (const auto* wanted = mark_of(format)) {
        // One that begins in the cluster before it cannot be looked for here.
        if (used < wanted->within) return 1;
        const auto tail = content::text_of(last.subspan(used - wanted->within));
        return tail.find(wanted->mark) != tail.npos ? 2 : 0;
    }
    // A file's last byte is hardly ever zero where all after it are.
    return zeros && last[used - 1] != 0 ? 2 : 1;
}

}  // namespace undershelf
