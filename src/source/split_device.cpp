#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <map>

#include "base/error.hpp"
#include "source/byte_device.hpp"

namespace fs = std::filesystem;

namespace undershelf {

namespace {

/// `card.001` is taken apart into `card.` and 3 digits; nothing when the name does not end in a first number.
struct PartName {
    std::string stem;
    std::size_t digits;
};

bool is_number(const std::string& text) {
    return !text.empty() &&
           std::all_of(text.begin(), text.end(), [](char c) { return c >= '0' && c <= '9'; });
}

std::optional<PartName> first_part_name(const std::string& path) {
    const auto dot = path.rfind('.');
    if (dot == std::string::npos) return std::nullopt;
    const auto number = path.substr(dot + 1);
    if (number.size() < 2 || number.size() > 6 || !is_number(number) || std::stoul(number) != 1)
        return std::nullopt;
    return PartName{path.substr(0, dot + 1), number.size()};
}

/// The parts that are beside the first one, by their number.
std::map<unsigned long, std::string> parts_beside(const PartName& name) {
    std::map<unsigned long, std::string> out;
    const fs::path stem(name.stem);
    const auto folder = stem.has_parent_path() ? stem.parent_path() : fs::path(".");
    const auto prefix = stem.filename().string();
    std::error_code ec;
    for (const auto& file : fs::directory_iterator(folder, ec)) {
        const auto file_name = file.path().filename().string();
        if (file_name.size() != prefix.size() + name.digits || !file_name.starts_with(prefix)) continue;
        const auto number = file_name.substr(prefix.size());
        if (is_number(number) && std::stoul(number) > 0) out[std::stoul(number)] = file.path().string();
    }
    return out;
}

constexpr std::uint64_t sector = 512;

struct Part {
    std::uint64_t offset = 0;
    std::uint64_t length = 0;  ///< that it should have
    std::uint64_t there = 0;   ///< of it, whole sectors but at the image's end
    std::string path = {};
    std::unique_ptr<ByteDevice> device = {};  ///< null for a part that is missing
};

class SplitDevice final : public ByteDevice {
  public:
    SplitDevice(std::string path, std::vector<Part> parts)
        : path_(std::move(path)), parts_(std::move(parts)) {}

    std::string path() const override { return path_; }
    std::uint64_t size() const override { return parts_.back().offset + parts_.back().length; }
    std::uint32_t sector_size() const override { return 512; }

    bool read_at(std::uint64_t offset, MutableBytes out) const override {
        auto part =
            std::upper_bound(parts_.begin(), parts_.end(), offset,
                             [](std::uint64_t at, const Part& p) { return at < p.offset + p.length; });
        for (; !out.empty(); ++part) {
            if (part == parts_.end() || !part->device) return false;
            const auto within = offset - part->offset;
            const auto n =
                static_cast<std::size_t>(std::min<std::uint64_t>(out.size(), part->length - within));
            if (within + n > part->there || !part->device->read_at(within, out.first(n))) return false;
            offset += n;
            out = out.subspan(n);
        }
        return true;
    }

    std::vector<ByteRange> data_ranges() const override {
        std::vector<ByteRange> out;
        for (const auto& part : parts_) {
            if (!part.device) continue;
            for (const auto& r : part.device->data_ranges()) {
                if (const auto inside = overlap(r, {0, part.there}))
                    out.push_back({part.offset + inside->offset, inside->length});
            }
        }
        return out;
    }

    std::vector<Gap> gaps() const override {
        std::vector<Gap> out;
        for (const auto& part : parts_) {
            if (part.there < part.length)
                out.push_back(
                    {{part.offset + part.there, part.length - part.there},
                     fmt::format("the part {} {}", part.path, part.device ? "was cut short" : "is missing")});
        }
        return out;
    }

  private:
    std::string path_;
    std::vector<Part> parts_;
};

}  // namespace

bool is_split_image(const std::string& path) {
    const auto name = first_part_name(path);
    return name && parts_beside(*name).size() > 1;
}

std::vector<std::string> files_of(const std::string& path) {
    const auto name = first_part_name(path);
    if (!name) return {path};
    std::vector<std::string> out;
    for (auto& [number, part] : parts_beside(*name)) out.push_back(std::move(part));
    if (out.size() < 2) return {path};
    return out;
}

namespace {

bool is_empty(const std::string& path) {
    std::error_code ec;
    return fs::is_regular_file(path, ec) && fs::file_size(path, ec) == 0;
}

/// The lengths that the parts should have: the last one is as long as it is.
SplitShape usual_shape(const std::map<unsigned long, std::string>& found) {
    const auto part_size = open_file_device(found.begin()->second)->size();
    const auto& [number, last] = *found.rbegin();
    return {(number - 1) * part_size + open_file_device(last)->size(), part_size};
}

Part open_part(const std::string& path, const ByteRange& range, bool is_there, bool is_last,
               const std::string& first_part) {
    Part part{range.offset, range.length, 0, path, nullptr};
    if (!is_there) return part;
    if (is_empty(path)) return part;  // as good as missing
    part.device = open_file_device(path);
    const auto size = part.device->size();
    if (size > range.length)
        throw Error(Trouble::input,
                    fmt::format("{} has {} bytes, and should have {}, as {} says. So it is not known where "
                                "its bytes belong. Bring the right parts together, all of them whole.",
                                path, size, range.length,
                                is_last ? "the image's length" : "the length of " + first_part));
    part.there = size == range.length ? size : size / sector * sector;
    return part;
}

}  // namespace

std::unique_ptr<ByteDevice> open_split_device(const std::string& first_part,
                                              const std::optional<SplitShape>& told) {
    const auto name = first_part_name(first_part);
    if (!name)
        throw Error(
            Trouble::input,
            fmt::format("{} is not the first part of a split image, which ends in .001.", first_part));
    auto found = parts_beside(*name);
    while (!told && found.size() > 1 && is_empty(found.rbegin()->second)) found.erase(std::prev(found.end()));
    constexpr std::uint64_t most_parts = 100'000;
    if (found.empty() || found.begin()->first != 1)
        throw Error(Trouble::input, fmt::format("{} is missing; bring it back.", first_part));
    if (found.rbegin()->first > most_parts)
        throw Error(Trouble::input, fmt::format("{} has part number {}; a split image has at most {} parts.",
                                                first_part, found.rbegin()->first, most_parts));
    const auto shape = told ? *told : usual_shape(found);
    const auto count = (shape.size + shape.part_size - 1) / shape.part_size;
    if (count > most_parts || found.rbegin()->first > count)
        throw Error(
            Trouble::input,
            fmt::format("The parts of {} do not go together: there should be {} of {} bytes each. Bring "
                        "the right ones together.",
                        first_part, count, shape.part_size));
    std::vector<Part> parts;
    for (unsigned long number = 1; number <= count; ++number) {
        const auto at = (number - 1) * shape.part_size;
        parts.push_back(open_part(fmt::format("{}{:0{}}", name->stem, number, name->digits),
                                  {at, std::min(shape.part_size, shape.size - at)}, found.count(number) > 0,
                                  number == count, first_part));
    }
    return std::make_unique<SplitDevice>(first_part, std::move(parts));
}

}  // namespace undershelf
