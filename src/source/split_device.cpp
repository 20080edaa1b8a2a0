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

/// The parts that stand beside the first one, by their number.
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

struct Part {
    std::uint64_t offset;
    std::uint64_t length;
    std::string path;
    std::unique_ptr<ByteDevice> device;  ///< null for a part that is missing
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
            if (!part->device->read_at(within, out.first(n))) return false;
            offset += n;
            out = out.subspan(n);
        }
        return true;
    }

    std::vector<ByteRange> data_ranges() const override {
        std::vector<ByteRange> out;
        for (const auto& part : parts_) {
            if (!part.device) continue;
            for (const auto& r : part.device->data_ranges())
                out.push_back({part.offset + r.offset, r.length});
        }
        return out;
    }

    std::vector<Gap> gaps() const override {
        std::vector<Gap> out;
        for (const auto& part : parts_) {
            if (!part.device)
                out.push_back({{part.offset, part.length}, fmt::format("the part {} is missing", part.path)});
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

std::unique_ptr<ByteDevice> open_split_device(const std::string& first_part) {
    const auto name = first_part_name(first_part);
    if (!name)
        throw Error(
            Trouble::input,
            fmt::format("{} is not the first part of a split image, which ends in .001.", first_part));
    const auto found = parts_beside(*name);
    std::vector<Part> parts;
    std::uint64_t at = 0, usual = 0;
    const auto last = found.rbegin()->first;
    // Every part but the last has the first one's length, so only that many may be missing without doubt.
    if (last > 100'000)
        throw Error(
            Trouble::input,
            fmt::format("{} has part number {}; a split image has at most 100000 parts.", first_part, last));
    for (unsigned long number = 1; number <= last; ++number) {
        Part part{at, usual, fmt::format("{}{:0{}}", name->stem, number, name->digits), nullptr};
        if (const auto it = found.find(number); it != found.end()) {
            part.device = open_file_device(it->second);
            part.length = part.device->size();
            if (number == 1) usual = part.length;
        }
        at += part.length;
        parts.push_back(std::move(part));
    }
    return std::make_unique<SplitDevice>(first_part, std::move(parts));
}

}  // namespace undershelf
