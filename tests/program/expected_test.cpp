// All that the program says of volumes that real drivers wrote, each with one trouble, is what it said
// before: a change that makes something of them better or worse is seen, and has to be meant.
// tests/volumes/make.py made the volumes. With UNDERSHELF_SAY_ANEW in the environment what is said is written
// down anew, to be read before it is kept.

#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>

#include "rating/explain.hpp"
#include "shelf/shelf.hpp"
#include "support/program_test.hpp"
#include "support/said.hpp"
#include "volume/words.hpp"

namespace undershelf::test {

namespace {

const char* const names[] = {
    "fat12-deleted",    "fat16-deleted", "fat32-deleted",   "fat16-headless",    "fat32-formatted",
    "fat16-formatted",  "exfat-deleted", "exfat-formatted", "exfat-headless",    "ntfs-deleted",
    "ntfs-formatted",   "ntfs-headless", "hfsplus-deleted", "hfsplus-formatted", "hfsplus-small-nodes",
    "hfsplus-headless", "fat16-inside",  "ntfs-inside",     "exfat-inside",      "hfsplus-inside",
    "nameless"};

std::string told(const Volume& v) {
    return fmt::format("volume {}: {} {} at {}, {} bytes, clusters of {} from {}, support {}, `{}`, {}: {}\n",
                       v.number, word(v.state), v.file_system, v.offset, v.size, v.cluster_size, v.grid_start,
                       v.support, v.label, v.found_by, v.votes);
}

std::string told(const Piece& p) {
    auto out = fmt::format("  piece {} at {}, {} bytes from {}", static_cast<int>(p.kind), p.offset, p.length,
                           p.source);
    if (p.codec != Codec::none) out += fmt::format(" codec {}", static_cast<int>(p.codec));
    for (const auto& r : p.input) out += fmt::format(" {}+{}", r.offset, r.length);
    return out + (p.known ? "\n" : " assumed\n");
}

/// A line of the list without what is as it mostly is.
std::string told(nlohmann::json row) {
    for (auto it = row.begin(); it != row.end();) {
        const bool usual = it->is_null() || *it == false || (it->is_structured() && it->empty());
        it = usual ? row.erase(it) : std::next(it);
    }
    return dumped(row) + "\n";
}

class Said : public ProgramTest, public ::testing::WithParamInterface<const char*> {
  protected:
    std::string at_reach(const char* reach) {
        const char* const scan[] = {"scan", "volume.img", "--shelf", "volume.shelf", "--reach", reach};
        EXPECT_LE(run({std::begin(scan), std::end(scan)}).status, 1);
        const Shelf shelf(folder.at("volume.shelf"));
        std::string out = fmt::format("== reach {}\n", reach);
        for (const auto& v : shelf.volumes()) out += told(v);
        const auto name_of = [&](std::int64_t id) { return shelf.entry(id) ? shelf.entry(id)->path() : "?"; };
        const char* const words[] = {"list",   "volume.shelf", "--format", "jsonl",
                                     "--sort", "id",           "--helpers"};
        const auto listed = run({std::begin(words), std::end(words)});
        for (const auto& row : lines_of(listed.out)) {
            out += told(row);
            for (const auto& p : shelf.pieces(row["id"])) out += told(p);
            for (const auto& e : shelf.evidence(row["id"]))
                out += fmt::format("  {} ({:.3f}, {:.3f})\n", explain(e, name_of), e.chance, e.left);
        }
        return out;
    }
};

}  // namespace

TEST_P(Said, IsWhatWasSaidBefore) {
    folder.write("volume.img", made_volume(GetParam()));
    auto now = run({"inspect", "volume.img"}).out + run({"inspect", "volume.img", "--format", "json"}).out;
    for (const auto* reach : {"traces", "content"}) now += at_reach(reach);
    expect_said(GetParam(), now);
}

INSTANTIATE_TEST_SUITE_P(Volumes, Said, ::testing::ValuesIn(names), [](const auto& test) {
    std::string name = test.param;
    std::replace(name.begin(), name.end(), '-', '_');
    return name;
});

}  // namespace undershelf::test
