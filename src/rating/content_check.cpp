#include "rating/content_check.hpp"

#include <algorithm>

#include "content/characters.hpp"

namespace undershelf {

namespace {
constexpr std::uint64_t read_whole_up_to = 256 << 10;
constexpr std::uint64_t sample_size = 4096;
constexpr std::uint64_t zero_unit = 512;
/// Shorter runs of zeros occur inside many formats.
constexpr std::uint64_t long_zero_run = 16384;

/// The stretches of a file that are looked at: all of a small one, else samples spread evenly, first and last
/// included.
std::vector<ByteRange> stretches(std::uint64_t size, bool first_alone) {
    if (first_alone) return {{0, std::min(size, sample_size)}};
    if (size <= read_whole_up_to) return {{0, size}};
    std::vector<ByteRange> out;
    const std::uint64_t samples = read_whole_up_to / sample_size;
    for (std::uint64_t i = 0; i < samples; ++i) {
        const auto at = (size - sample_size) / (samples - 1) * i / zero_unit * zero_unit;
        out.push_back({at, sample_size});
    }
    out.back().offset = size - sample_size;
    return out;
}

/// Bytes in runs of zero units, counted where the run is long or fills the stretch.
std::uint64_t zeros_in(Bytes bytes) {
    std::uint64_t sum = 0, run = 0;
    const auto close = [&] {
        if (run >= long_zero_run || run >= bytes.size()) sum += run;
        run = 0;
    };
    for (std::size_t at = 0; at < bytes.size(); at += zero_unit) {
        const auto unit = bytes.subspan(at, std::min<std::size_t>(zero_unit, bytes.size() - at));
        if (all_zero(unit)) {
            run += unit.size();
        } else {
            close();
        }
    }
    close();
    return sum;
}
}  // namespace

ContentLook look_at_content(ContentStream& stream, std::string_view ext, const RangeSet& lost,
                            std::uint64_t most_bytes) {
    ContentLook out;
    const bool text = is_text_extension(ext);
    out.zeros_telling = rarely_holds_zeros(ext);
    const bool first_alone = most_bytes < std::min(stream.size(), read_whole_up_to);
    std::uint64_t looked = 0, zeros = 0;
    ByteVector bytes;
    std::optional<Encoding> encoding;
    for (const auto& stretch : stretches(stream.size(), first_alone)) {
        out.looked += stretch.length;
        bytes.resize(static_cast<std::size_t>(stretch.length));
        const auto missing = stream.read(stretch.offset, bytes);
        if (stretch.offset == 0) {
            const auto head = Bytes(bytes).first(std::min<std::size_t>(bytes.size(), zero_unit));
            out.zero_start = all_zero(head);
            out.first =
                compare_with_extension(Bytes(bytes).first(std::min(bytes.size(), signature_bytes)), ext);
            encoding = encoding_of(Bytes(bytes).first(std::min(bytes.size(), signature_bytes)));
        }
        if (!missing.empty() || lost.touches(stretch)) continue;
        looked += stretch.length;
        if (!first_alone) zeros += zeros_in(bytes);
        if (!text || out.broken_text_at) continue;
        TextScan scan(encoding.value_or(Encoding::eight_bit), stretch.offset);
        scan.take(bytes);
        out.broken_text_at = scan.broken_at();
    }
    if (looked)
        out.zero_bytes = static_cast<std::uint64_t>(static_cast<double>(zeros) / static_cast<double>(looked) *
                                                    static_cast<double>(stream.size()));
    out.text_throughout = text && looked > 0 && !first_alone && !out.broken_text_at;
    return out;
}

}  // namespace undershelf
