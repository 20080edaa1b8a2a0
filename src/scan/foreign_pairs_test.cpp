// Silence, padding, free atoms and comments swallow a foreign cluster, and a fair check that passes over it
// proves nothing.

#include <gtest/gtest.h>

#include <map>
#include <set>

#include "content/formats.hpp"
#include "scan/scan.hpp"
#include "shelf/shelf.hpp"
#include "support/checked.hpp"
#include "support/fat_image.hpp"
#include "support/format_cases.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

constexpr std::size_t cluster = 512;

/// Another file that begins in a cluster.
ByteVector foreign() {
    constexpr std::size_t length = 400;
    for (const auto& c : test::format_cases()) {
        auto bytes = c.make();
        if (c.format != "gzip" || bytes.size() < length) continue;
        bytes.resize(length);
        return bytes;
    }
    return {};
}

/// With the foreign file over one of its clusters.
ByteVector with_foreign(ByteVector content, std::size_t at) {
    const auto other = foreign();
    std::fill_n(content.begin() + static_cast<std::ptrdiff_t>(at * cluster), cluster, 0);
    std::copy(other.begin(), other.end(), content.begin() + static_cast<std::ptrdiff_t>(at * cluster));
    return content;
}

std::string text_of(const ByteVector& bytes) {
    return {bytes.begin(), bytes.end()};
}

std::map<std::string, ShelfEntry> scanned(const ByteVector& content, std::size_t at, const std::string& ext) {
    test::FatImage card;
    const auto clusters = (content.size() + cluster - 1) / cluster;
    std::vector<fat::Cluster> chain;
    for (std::size_t i = 0; i < clusters; ++i) chain.push_back(static_cast<fat::Cluster>(100 + i));
    const auto name = std::u16string(u"owl.") + std::u16string(ext.begin(), ext.end());
    card.erase(card.put(0, "OWL     BIN", name, chain, text_of(content)));
    const auto other = foreign();
    card.erase(card.add(0, {"HALL    GZ ", u"hall.gz", static_cast<fat::Cluster>(100 + at),
                            static_cast<std::uint32_t>(other.size())}));
    const test::TemporaryFolder folder;
    ScanOptions options;
    options.source_path = folder.write("card.img", card.bytes());
    options.shelf_path = folder.at("card.shelf");
    options.reach = Reach::content;
    Progress progress;
    scan(options, progress);
    std::map<std::string, ShelfEntry> out;
    Shelf(options.shelf_path).for_each({}, {}, [&](const ShelfEntry& e) {
        out[e.name] = e;
        return true;
    });
    return out;
}

}  // namespace

TEST(ForeignPairs, AreNeverVerified) {
    ASSERT_FALSE(foreign().empty());
    std::set<std::string> formats;
    for (const auto& c : test::format_cases()) {
        const auto content = c.make();
        int pairs = 0;
        for (std::size_t at = 1; (at + 1) * cluster < content.size() && pairs < 2; ++at) {
            const auto changed = with_foreign(content, at);
            const auto check = test::checked(changed);
            if (!check.complete || check.strength != Strength::fair || check.holds_to != changed.size())
                continue;
            ++pairs;
            formats.insert(c.format);
            const auto* format = format_named(c.format);
            const auto ext = std::string(format->extensions.substr(1, format->extensions.find(" ", 1) - 1));
            const auto seen = scanned(changed, at, ext);
            const auto owl = seen.find("owl." + ext);
            ASSERT_NE(owl, seen.end()) << c.format;
            EXPECT_NE(owl->second.rating.grade, Grade::verified) << c.format << " at cluster " << at;
        }
    }
    EXPECT_GE(formats.size(), 4u) << "hardly a fair reader swallows anything: is it tested at all?";
}

}  // namespace undershelf
