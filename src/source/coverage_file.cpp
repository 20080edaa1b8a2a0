#include "source/coverage_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <fstream>

#include "base/error.hpp"
#include "base/printable.hpp"
#include "base/sha256.hpp"
#include "source/csv_lines.hpp"

namespace undershelf {

namespace {

constexpr std::uint64_t largest_source = 1ull << 62;  ///< bytes
constexpr std::string_view title = "what of a source is in the image beside this file";

/// What is after `word: ` in a comment.
std::optional<std::string_view> behind(std::string_view comment, std::string_view word) {
    if (!comment.starts_with(word) || comment.substr(word.size(), 1) != ":") return std::nullopt;
    comment.remove_prefix(word.size() + 1);
    while (!comment.empty() && comment.front() == ' ') comment.remove_prefix(1);
    return comment;
}

std::vector<std::string_view> parts_of(std::string_view text) {
    std::vector<std::string_view> out;
    for (;;) {
        const auto comma = text.find(',');
        out.push_back(text.substr(0, comma));
        if (comma == std::string_view::npos) return out;
        text.remove_prefix(comma + 1);
    }
}

std::uint64_t number_in(const CsvFile& file, std::string_view word, const std::string& path) {
    for (const auto& c : file.comments) {
        const auto text = behind(c, word);
        if (!text) continue;
        if (const auto n = parse_bytes(*text)) return *n;
        throw Error(Trouble::input, fmt::format("{}: `{}` is not a number of bytes.", path, c.substr(0, 60)));
    }
    throw Error(
        Trouble::input,
        fmt::format("{} does not say `# {}: BYTES` above its header, as the coverage of an image does; "
                    "it may have been written by hand, or only half of it is left.",
                    path, word));
}

/// 0 for one file.
std::uint64_t part_size_in(const CsvFile& file, std::uint64_t size, const std::string& path) {
    constexpr std::uint64_t least = 1 << 20, most_parts = 100'000;
    const auto said = std::any_of(file.comments.begin(), file.comments.end(),
                                  [](const auto& c) { return behind(c, "parts of").has_value(); });
    if (!said) return 0;
    const auto out = number_in(file, "parts of", path);
    if (out < least || (size - 1) / out >= most_parts)
        throw Error(
            Trouble::input,
            fmt::format("{} says that the image is in parts of {} bytes. Parts have {} bytes at least, "
                        "and there are {} of them at most.",
                        path, out, least, most_parts));
    return out;
}

void read_comments(const CsvFile& file, CoverageRecord& record) {
    std::vector<ByteRange> narrowed;
    const ByteRange all{0, record.coverage.size()};
    for (const auto& c : file.comments) {
        if (const auto text = behind(c, "source")) record.source = *text;
        if (const auto text = behind(c, "serial")) record.serial = *text;
        if (const auto text = behind(c, "narrowed")) {
            const auto parts = parts_of(*text);
            const auto range = parts.size() == 2 ? parse_range(parts[0], parts[1]) : std::nullopt;
            if (range && overlap(*range, all) == *range) narrowed.push_back(*range);
        }
        if (const auto text = behind(c, "sample")) {
            const auto parts = parts_of(*text);
            const auto range = parts.size() == 3 ? parse_range(parts[0], parts[1]) : std::nullopt;
            if (range && range->length <= longest_sample && overlap(*range, all) == *range)
                record.samples.push_back({*range, std::string(parts[2])});
        }
    }
    record.narrowed = RangeSet(std::move(narrowed));
}

}  // namespace

CoverageRecord read_coverage_file(const std::string& path) {
    std::ifstream in(path);
    if (!in) throw Error(Trouble::input, fmt::format("The coverage file {} cannot be opened.", path));
    return read_coverage(in, path);
}

CoverageRecord read_coverage(std::istream& in, const std::string& path) {
    const auto file = read_csv(in);
    if (file.header != coverage_header)
        throw Error(
            Trouble::input,
            fmt::format("{} is not the coverage of an image: the first line that is no comment must be `{}`.",
                        path, coverage_header));
    CoverageRecord out(number_in(file, "size", path));
    if (out.coverage.size() == 0 || out.coverage.size() > largest_source)
        throw Error(Trouble::input, fmt::format("{} says that its source has {} bytes; no drive has so many.",
                                                path, out.coverage.size()));
    out.sector_size = static_cast<std::uint32_t>(number_in(file, "sector", path));
    if (out.sector_size < 512 || out.sector_size > (64 << 10) || !is_power_of_two(out.sector_size))
        throw Error(Trouble::input, fmt::format("{} says that sectors have {} bytes; no drive has such ones.",
                                                path, out.sector_size));
    read_comments(file, out);
    out.part_size = part_size_in(file, out.coverage.size(), path);
    std::uint64_t end = 0;
    for (const auto& row : file.rows) {
        const auto range = row.fields.size() == 3 ? parse_range(row.fields[0], row.fields[1]) : std::nullopt;
        const auto state = range ? coverage_state_named(row.fields[2]) : std::nullopt;
        if (!state)
            refuse_row(path, row,
                       "is not an offset, a length and one of waiting, copied, zeros, leapt, unreadable");
        if (range->offset < end) refuse_row(path, row, "overlaps the lines before it");
        if (range->end() > out.coverage.size())
            refuse_row(path, row, fmt::format("lies beyond the source's end at {}", out.coverage.size()));
        out.coverage.set(*range, *state);
        end = range->end();
    }
    return out;
}

std::string text_of(const CoverageRecord& r) {
    auto out = fmt::format("# {}\n# source: {}\n# size: {}\n# sector: {}\n# serial: {}\n", title,
                           without_controls(r.source), r.coverage.size(), r.sector_size, r.serial);
    const auto to = std::back_inserter(out);
    if (r.part_size) fmt::format_to(to, "# parts of: {}\n", r.part_size);
    for (const auto& s : r.samples)
        fmt::format_to(to, "# sample: {},{},{}\n", s.range.offset, s.range.length, s.sha256);
    for (const auto& n : r.narrowed.ranges()) fmt::format_to(to, "# narrowed: {},{}\n", n.offset, n.length);
    fmt::format_to(to, "{}\n", coverage_header);
    for (const auto& s : r.coverage.stretches())
        fmt::format_to(to, "{},{},{}\n", s.range.offset, s.range.length, word_of(s.state));
    return out;
}

std::optional<std::uint64_t> sample_not_in_image(const ByteDevice& image, const CoverageRecord& record) {
    for (const auto& sample : record.samples) {
        if (!record.coverage.holds(sample.range) || sample.range.end() > image.size()) continue;
        ByteVector bytes(static_cast<std::size_t>(sample.range.length));
        if (!image.read_at(sample.range.offset, bytes)) continue;
        Sha256 hash;
        hash.add(bytes);
        if (hash.hex() != sample.sha256) return sample.range.offset;
    }
    return std::nullopt;
}

std::string coverage_path_of(const std::string& image) {
    return image + ".coverage.csv";
}

std::optional<std::string> coverage_beside(const std::string& image) {
    std::error_code ec;
    if (auto path = coverage_path_of(image); std::filesystem::exists(path, ec)) return path;
    if (!is_split_image(image)) return std::nullopt;
    auto path = coverage_path_of(image.substr(0, image.rfind('.')));
    return std::filesystem::exists(path, ec) ? std::optional(path) : std::nullopt;
}

}  // namespace undershelf
