#include "ntfs/links.hpp"

#include <gtest/gtest.h>

#include "ntfs/structures.hpp"
#include "support/disk_image.hpp"
#include "support/ntfs_image.hpp"

namespace undershelf::ntfs {

using namespace test::ntfs;
using test::put_number;

namespace {
std::optional<std::string> target_of(const ByteVector& value) {
    return parse_reparse_point(value).target;
}

/// Tag, length and what follows.
ByteVector reparse_value(std::uint32_t tag, const std::string& data) {
    ByteVector out(8);
    put_number(out, 0, tag, 4);
    put_number(out, 4, data.size(), 2);
    out.insert(out.end(), data.begin(), data.end());
    return out;
}
}  // namespace

TEST(NtfsLinks, TheShownNameIsTheTarget) {
    EXPECT_EQ(target_of(link_value(u"\\??\\C:\\Props", u"C:\\Props")), "C:\\Props");
    EXPECT_EQ(target_of(link_value(u"\\??\\C:\\Props", u"")), "C:\\Props");
    EXPECT_EQ(target_of(link_value(u"..\\play.txt", u"..\\play.txt")), "..\\play.txt");
    EXPECT_EQ(target_of(link_value(u"\\??\\D:\\", u"D:\\", true)), "D:\\");
    EXPECT_EQ(parse_reparse_point(link_value(u"a", u"a", true)).kind, "a junction");
}

TEST(NtfsLinks, LinksOfOtherSystemsHaveTargets) {
    using namespace std::string_literals;
    EXPECT_EQ(target_of(reparse_value(0xA000001D, "\x02\0\0\0Scripts/play.txt"s)), "Scripts/play.txt");
    EXPECT_EQ(target_of(reparse_value(0x80000014, "LNK\x01\0\0\0\0a\0/\0b\0"s)), "a/b");
    // A pipe of that server, and what is no link.
    EXPECT_FALSE(target_of(reparse_value(0x80000014, "FIFO\0\0\0\0"s)));
    EXPECT_FALSE(target_of(reparse_value(0x80000017, std::string(16, '\0'))));
}

TEST(NtfsLinks, LengthsThatLieMakeNoTarget) {
    const auto good = link_value(u"play.txt", u"play.txt");
    for (const std::size_t field : {4, 10, 12, 14}) {
        auto bad = good;
        put_number(bad, field, 0xFFF0, 2);
        const auto target = target_of(bad);
        EXPECT_TRUE(!target || target->empty() || *target == "play.txt") << field;
    }
    for (std::size_t size = 0; size < good.size(); ++size)
        EXPECT_FALSE(target_of({good.begin(), good.begin() + static_cast<std::ptrdiff_t>(size)})) << size;
}

TEST(NtfsReader, ListsLinksWithTheirTargets) {
    constexpr std::uint32_t system = 4;
    Image image;
    image.record(30, 1, 1,
                 {Image::times(system), Image::name(5, 5, u"poster.jpg"),
                  resident(ATTR_DATA, stored_link_bytes(u"Props/p\u00f6ster.jpg"))});
    // The same bytes in a file that is not marked are a file.
    image.record(31, 1, 1,
                 {Image::times(), Image::name(5, 5, u"no link.jpg"),
                  resident(ATTR_DATA, stored_link_bytes(u"Props/poster.jpg"))});
    image.record(32, 2, 0,
                 {Image::times(), Image::name(5, 5, u"lost link"), resident(ATTR_DATA, {}),
                  resident(ATTR_REPARSE, link_value(u"Scripts\\play.txt", u""))});
    image.record(33, 1, 3,
                 {Image::times(), Image::name(5, 5, u"junction"),
                  resident(ATTR_REPARSE, link_value(u"\\??\\C:\\Scripts", u"", true))});
    const auto long_target = std::u16string(600, u'a');
    const auto value = stored_link_bytes(long_target);
    image.fill(600, std::string(value.begin(), value.end()));
    image.record(34, 1, 1,
                 {Image::times(system), Image::name(5, 5, u"long link"),
                  non_resident(ATTR_DATA, {{600, 1}}, value.size(), value.size())});
    const auto seen = read(image.bytes);
    const auto link = [&](const char* name) { return seen.find(name)->link; };
    EXPECT_EQ(link("poster.jpg"), "Props/p\xC3\xB6ster.jpg");
    EXPECT_EQ(content_of(image.bytes, *seen.find("poster.jpg")), "Props/p\xC3\xB6ster.jpg");
    EXPECT_FALSE(link("no link.jpg"));
    EXPECT_EQ(link("lost link"), "Scripts\\play.txt");
    EXPECT_EQ(seen.find("lost link")->layout, Layout::known);
    EXPECT_EQ(link("junction"), "C:\\Scripts");
    EXPECT_FALSE(seen.find("junction")->is_dir);
    EXPECT_EQ(link("long link")->size(), long_target.size());
    EXPECT_FALSE(seen.find("long link")->claims.empty());
}

TEST(NtfsReader, ALinkWithoutATargetIsOneAllTheSame) {
    Image image;
    auto value = link_value(u"Scripts", u"");
    put_number(value, 8, 0xFFF0, 2);
    for (const std::uint16_t flags : {1, 0})
        image.record(30 + flags, 1, flags,
                     {Image::times(), Image::name(5, 5, flags ? u"live" : u"lost"), resident(ATTR_DATA, {}),
                      resident(ATTR_REPARSE, value)});
    // Bytes of something else where the name was.
    auto overwritten = link_value(u"Scripts", u"");
    for (std::size_t i = 20; i < overwritten.size(); ++i) overwritten[i] = i % 2 ? 0 : 7;
    image.record(40, 1, 0,
                 {Image::times(), Image::name(5, 5, u"overwritten"), resident(ATTR_REPARSE, overwritten)});
    const auto seen = read(image.bytes);
    EXPECT_EQ(seen.find("overwritten")->link, "");
    EXPECT_EQ(seen.find("live")->link, "");
    EXPECT_EQ(seen.find("live")->layout, Layout::known);
    EXPECT_EQ(seen.find("lost")->link, "");
    EXPECT_EQ(seen.find("lost")->layout, Layout::none);
}

}  // namespace undershelf::ntfs
