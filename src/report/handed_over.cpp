#include "report/handed_over.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <sys/sysmacros.h>

#include <algorithm>
#include <filesystem>
#include <map>

#include "base/error.hpp"
#include "base/line_reader.hpp"
#include "base/sha256.hpp"
#include "export/bag_files.hpp"
#include "export/exported_entry.hpp"
#include "source/attached.hpp"
#include "volume/words.hpp"

namespace undershelf {

namespace {

/// The drive that a folder is on, as people tell it from others.
std::string drive_of(const std::string& folder) {
    struct stat status {};
    if (::stat(folder.c_str(), &status) != 0) return {};
    std::error_code ec;
    const auto link = std::filesystem::read_symlink(
        fmt::format("/sys/dev/block/{}:{}", ::major(status.st_dev), ::minor(status.st_dev)), ec);
    const auto drive = ec ? std::nullopt : attached_drive("/dev/" + link.filename().string());
    if (!drive) return {};
    std::string out = drive->health.model.empty() ? drive->path : drive->health.model;
    if (!drive->health.serial.empty()) out += ", serial number " + drive->health.serial;
    return out;
}

/// Adds up what became of the entries. Of an entry that was exported several times each file counts.
void count_lines(const Folder& bag, HandedOver& out) {
    std::map<std::string, std::uint64_t> why;
    bag_file::each_line(bag, bag_file::place_of_tag(bag, bag_file::exported_name),
                        [&](const std::string& line) {
                            const auto entry = from_json_line(line);
                            if (!entry || !is_sound(*entry)) return;
                            if (entry->outcome == "complete" || entry->outcome == "partial") {
                                ++(entry->outcome == "complete" ? out.complete : out.partial);
                                out.bytes += entry->size;
                                const auto grade = grade_from_word(entry->grade).value_or(Grade::none);
                                ++out.by_grade[static_cast<std::size_t>(grade)];
                            } else {
                                ++(entry->outcome == "failed" ? out.failed : out.left_out);
                                ++why[entry->why.empty() ? "no reason is noted" : entry->why];
                            }
                        });
    out.why_left_out.assign(why.begin(), why.end());
    std::stable_sort(out.why_left_out.begin(), out.why_left_out.end(),
                     [](const auto& a, const auto& b) { return a.second > b.second; });
    constexpr std::size_t most_told = 12;
    if (out.why_left_out.size() > most_told) out.why_left_out.resize(most_told);
}

}  // namespace

HandedOver read_handed_over(const Shelf& shelf, const std::string& folder, Progress& progress) {
    HandedOver out;
    out.folder = folder;
    out.verification = verify_bag(folder, progress);
    const Folder bag(folder);
    const auto info = read_bag_info(bag, bag_file::place_of_tag(bag, bag_file::info_name));
    if (!info.shelf.empty() && info.shelf != shelf.identity())
        throw Error(Trouble::refused, fmt::format("{} was exported from another shelf than {}; nothing of it "
                                                  "belongs into this report. Leave it "
                                                  "out, or report on its own shelf.",
                                                  folder, shelf.path()));
    out.drive = drive_of(folder);
    out.rounds = info.rounds;
    count_lines(bag, out);
    if (bag.is_file(bag_file::manifest_name)) {
        const auto fd = bag.open(bag_file::manifest_name, O_RDONLY | O_NONBLOCK);
        out.manifest_sum = sha256_of_file(fd.get());
    }
    return out;
}

}  // namespace undershelf
