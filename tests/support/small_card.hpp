#pragma once
// A card with two live files and two deleted ones, a picture among them.

#include "support/fat_image.hpp"
#include "support/memory_content.hpp"

namespace undershelf::test {

inline FatImage small_card() {
    FatImage card({.clusters = 3000, .sectors_per_cluster = 1});
    const auto put = [&](const std::string& name, fat::Cluster first, const std::string& text) {
        std::vector<fat::Cluster> clusters;
        for (std::size_t i = 0; i * 512 < text.size(); ++i)
            clusters.push_back(first + static_cast<fat::Cluster>(i));
        return card.put(0, name, u"", clusters, text);
    };
    put("CUES    TXT", 10, sample_text("cues", 3000));
    put("PROPS   CSV", 30, sample_text("props", 900));
    card.erase(put("FOX     TXT", 40, sample_text("fox", 2000)));
    const auto poster = png_file();
    card.erase(put("POSTER  PNG", 60, std::string(poster.begin(), poster.end())));
    return card;
}

}  // namespace undershelf::test
