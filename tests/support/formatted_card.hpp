#pragma once
// A card of the theatre's that was formatted by mistake, byte by byte: folders and files of before, and a
// volume of the same kind over them with one new file.

#include "support/fat_image.hpp"

namespace undershelf::test {

inline FatImage formatted_card() {
    const FatShape shape{.clusters = 3000, .sectors_per_cluster = 2};
    FatImage old(shape);
    for (const auto& [cluster, name] : {std::pair{7u, "SCRIPTS    "}, {90u, "POSTERS    "}}) {
        old.chain({cluster});
        old.make_folder(cluster, 0);
        old.add(0, {name, {}, cluster, 0, fat::ATTR_DIRECTORY});
    }
    old.chain({91});
    old.make_folder(91, 7);
    old.add(7, {"ACT1       ", {}, 91, 0, fat::ATTR_DIRECTORY});
    old.put(7, "PLAY    TXT", u"", {100, 101}, sample_text("play", 1500));
    old.put(91, "CUES    TXT", u"", {300, 301, 302}, sample_text("cues", 3000));
    old.erase(old.put(91, "DRAFT   TXT", u"", {320}, sample_text("draft", 700)));
    old.put(90, "HALL    TXT", u"", {120}, sample_text("hall", 500));
    FatImage fresh(shape);
    fresh.add(0, {"NEW     TXT", {}, 200, 400, 0x20, 0x5B64});
    fresh.chain({200});
    fresh.fill(200, sample_text("new", 400));
    const auto rewritten = fresh.cluster_offset(3);
    std::copy_n(fresh.bytes().begin(), rewritten, old.bytes().begin());
    std::copy_n(fresh.bytes().begin() + static_cast<std::ptrdiff_t>(fresh.cluster_offset(200)), 1024,
                old.bytes().begin() + static_cast<std::ptrdiff_t>(old.cluster_offset(200)));
    return old;
}

}  // namespace undershelf::test
