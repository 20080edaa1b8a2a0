#include "source/system_files.hpp"

#include <charconv>
#include <fstream>

namespace fs = std::filesystem;

namespace undershelf {

std::string line_of(const fs::path& file) {
    std::ifstream in(file);
    std::string line;
    std::getline(in, line);
    const auto from = line.find_first_not_of(" \t");
    return from == std::string::npos ? "" : line.substr(from, line.find_last_not_of(" \t\r") + 1 - from);
}

std::optional<std::uint64_t> number_of(const std::string& text) {
    const bool hex = text.starts_with("0x");
    std::uint64_t out = 0;
    const auto* end = text.data() + text.size();
    const auto [at, ec] = std::from_chars(text.data() + (hex ? 2 : 0), end, out, hex ? 16 : 10);
    return ec == std::errc{} && at == end ? std::optional(out) : std::nullopt;
}

std::optional<fs::path> disk_folder(const std::string& number, const SystemPlaces& places) {
    std::error_code ec;
    const auto node = fs::canonical(fs::path(places.sys) / "dev/block" / number, ec);
    if (ec) return std::nullopt;
    return fs::exists(node / "partition", ec) ? node.parent_path() : node;
}

}  // namespace undershelf
