// Folders of several clusters that no table has any more.

#include <gtest/gtest.h>

#include "exfat/file_system.hpp"
#include "support/exfat_image.hpp"
#include "support/fat_image.hpp"
#include "support/memory_device.hpp"
#include "support/read_volume.hpp"

namespace undershelf::exfat {

namespace {

using namespace test::exfat;
using test::put_number;

test::Collector read(const ByteVector& bytes) {
    return test::read_volume(file_system(), bytes);
}

/// Splits the set at `from`: its first `head` slots become the last ones of cluster `a`, the others the first
/// ones of cluster `b`.
void split_set(Image& image, std::size_t from, std::size_t slots, std::size_t head, Cluster a, Cluster b) {
    const auto at = image.bytes.begin() + static_cast<std::ptrdiff_t>(from);
    const ByteVector set(at, at + static_cast<std::ptrdiff_t>(slots * 32));
    std::fill(at, at + static_cast<std::ptrdiff_t>(slots * 32), std::uint8_t{0});
    const auto put = [&](std::size_t place, std::size_t first, std::size_t count) {
        std::copy_n(set.begin() + static_cast<std::ptrdiff_t>(first * 32), count * 32,
                    image.bytes.begin() + static_cast<std::ptrdiff_t>(place));
    };
    put(image.place(a) + cluster_size - head * 32, 0, head);
    put(image.place(b), head, slots - head);
}

/// Sets of four slots that fill clusters exactly, so that none reaches from one into the next.
constexpr int in_a_cluster = cluster_size / 128;

std::u16string numbered(const std::u16string& name, int number) {
    return name + u' ' + static_cast<char16_t>(u'0' + number / 100) +
           static_cast<char16_t>(u'0' + number / 10 % 10) + static_cast<char16_t>(u'0' + number % 10) +
           u".jpg";
}

/// Puts a file, deleted, into a folder's cluster; files of one folder are a second or two apart.
void put_lost(Image& image, Cluster folder, const std::u16string& name, int number, Cluster start) {
    const auto at =
        image.add(folder, {.name = numbered(name, number),
                           .start = start,
                           .size = 900,
                           .created = 0x5A645000u + static_cast<unsigned>(number / 30 * 32 + number % 30)});
    image.erase(at, 4);
}

}  // namespace

TEST(ExfatFolders, GoOnWhereASetVerifiesAcrossClusters) {
    Image image;
    image.add(70, {u"first.txt", 80, 5});
    const auto split = image.add(70, {u"the set that lies in both clusters.txt", 81, 5});
    split_set(image, split, 5, 2, 70, 90);
    // After the rest of that set there is another one; cluster 71 holds a folder of its own.
    const auto other = image.add(91, {u"after.txt", 82, 5});
    std::copy_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(other), 96,
                image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(90) + 96));
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(other), 96, std::uint8_t{0});
    image.add(71, {u"elsewhere.txt", 83, 5});
    // The space between the two sets of cluster 70 is filled, as in a folder that is full.
    for (std::size_t slot = 3; slot < 126; slot += 3) image.erase(image.add(72, {u"filler.txt", 84, 5}));
    std::copy_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(72)), 123 * 32,
                image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(70) + 96));
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(72)), 123 * 32,
                std::uint8_t{0});
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("folder-70") && seen.find("folder-71"));
    for (const char* name : {"first.txt", "the set that lies in both clusters.txt", "after.txt"}) {
        ASSERT_TRUE(seen.find(name)) << name;
        EXPECT_EQ(seen.find(name)->parent, seen.find("folder-70")->key) << name;
    }
    EXPECT_EQ(seen.find("elsewhere.txt")->parent, seen.find("folder-71")->key);
}

TEST(ExfatFolders, GoOnFarAwayWhereASetVerifies) {
    // In between are more folders than are looked through without such a sign.
    Image image;
    for (std::size_t slot = 0; slot < 126; slot += 3) image.erase(image.add(70, {u"filler.txt", 84, 5}));
    const auto split = image.add(70, {u"in both.txt", 81, 5});
    const ByteVector set(image.bytes.begin() + static_cast<std::ptrdiff_t>(split),
                         image.bytes.begin() + static_cast<std::ptrdiff_t>(split) + 96);
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(71)), 32, std::uint8_t{0});
    for (Cluster c = 100; c < 170; ++c) image.erase(image.add(c, {u"elsewhere.txt", 83, 5}));
    image.add(200, {u"after.txt", 82, 5});
    image.add(200, {u"last.txt", 82, 5});
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(200)), 96, std::uint8_t{0x81});
    std::copy_n(set.begin() + 64, 32, image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(200)));
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(200)) + 32, 64,
                std::uint8_t{0x05});
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("folder-70") && seen.find("in both.txt") && seen.find("last.txt"));
    EXPECT_EQ(seen.find("in both.txt")->parent, seen.find("folder-70")->key);
    EXPECT_EQ(seen.find("last.txt")->parent, seen.find("folder-70")->key);
    EXPECT_EQ(seen.count_in("folder-70", "elsewhere"), 0);
}

TEST(ExfatFolders, AClusterThatBeginsInTheMiddleOfASetIsAFind) {
    Image image;
    const auto split = image.add(89, {u"the set that lies in both clusters.txt", 81, 5});
    split_set(image, split, 5, 1, 89, 90);
    const auto other = image.add(91, {u"after.txt", 82, 5});
    std::copy_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(other), 96,
                image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(90) + 4 * 32));
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(other), 96, std::uint8_t{0});
    image.use(89);  // the cluster before is somebody else's now
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("folder-90") && seen.find("after.txt"));
    EXPECT_EQ(seen.find("after.txt")->parent, seen.find("folder-90")->key);
    // The set has lost its file entry; the hash of its name ties the rest together.
    ASSERT_TRUE(seen.find("the set that lies in both clusters.txt"));
    EXPECT_EQ(seen.find("the set that lies in both clusters.txt")->size, 5u);
}

TEST(ExfatFolders, ChainsThatWereClearedAreFollowedBySets) {
    Image image;
    image.erase(image.add(root, {u"Winter play", 70, 2 * cluster_size, ~0ull, true, true}));
    for (std::size_t slot = 0; slot < 126; slot += 3) image.erase(image.add(70, {u"filler.txt", 84, 5}));
    const auto split = image.add(70, {u"in both.txt", 81, 5});
    // The last two slots of cluster 70, and the first of 95, not of 71.
    ByteVector set(image.bytes.begin() + static_cast<std::ptrdiff_t>(split),
                   image.bytes.begin() + static_cast<std::ptrdiff_t>(split) + 96);
    std::fill_n(image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(71)), 32, std::uint8_t{0});
    std::copy_n(set.begin() + 64, 32, image.bytes.begin() + static_cast<std::ptrdiff_t>(image.place(95)));
    const auto seen = read(image.bytes);
    ASSERT_TRUE(seen.find("in both.txt"));
    EXPECT_EQ(seen.find("in both.txt")->parent, seen.find("Winter play")->key);
    EXPECT_EQ(seen.find("Winter play")->layout, Layout::assumed);
    EXPECT_EQ(seen.find("Winter play")->claims.size(), 2u);
}

TEST(ExfatFolders, GoOnWhereTheirWriterWas) {
    // Sets of four slots fill clusters exactly, so that none reaches from one into the next. Each new cluster
    // of the folder lies after the files that the one before names.
    Image image;
    Cluster next = 70;
    std::vector<Cluster> clusters;
    for (int i = 0; i < 2 * in_a_cluster + 5; ++i) {
        if (i % in_a_cluster == 0) clusters.push_back(next++);
        const std::u16string number{static_cast<char16_t>(u'0' + i / 10),
                                    static_cast<char16_t>(u'0' + i % 10)};
        const auto at = image.add(clusters.back(),
                                  {.name = u"rehearsal photo " + number + u".jpg",
                                   .start = next++,
                                   .size = 900,
                                   .created = 0x5A645000u + static_cast<unsigned>(i / 30 * 32 + i % 30)});
        image.erase(at, 4);
    }
    // The driver left the folder's size as it was when it was made.
    image.erase(image.add(
        root, {.name = u"photos", .start = 70, .size = cluster_size, .chained = true, .folder = true}));
    const auto seen = read(image.bytes);
    const auto* folder = seen.find("photos");
    ASSERT_TRUE(folder);
    const auto in_it = std::count_if(seen.entries.begin(), seen.entries.end(), [&](const Entry& e) {
        return e.name.starts_with("rehearsal photo") && e.parent == folder->key;
    });
    EXPECT_EQ(in_it, 2 * in_a_cluster + 5);
    // Files that are older than those before them are another folder's.
    auto older = image.bytes;
    for (int i = 0; i < in_a_cluster; ++i) {
        const auto at = image.place(clusters[1]) + static_cast<std::size_t>(i) * 128;
        put_number(older, at + 8, 0x58645000, 4);
        older[at] |= 0x80;
        for (const auto slot : {32, 64, 96}) older[at + static_cast<std::size_t>(slot)] |= 0x80;
        put_number(older, at + 2, set_checksum(Bytes(older).subspan(at, 128)), 2);
        for (const auto slot : {0, 32, 64, 96}) older[at + static_cast<std::size_t>(slot)] &= 0x7F;
    }
    const auto apart = read(older);
    const auto* alone = apart.find("photos");
    ASSERT_TRUE(alone);
    EXPECT_EQ(std::count_if(apart.entries.begin(), apart.entries.end(),
                            [&](const Entry& e) { return e.parent == alone->key; }),
              in_a_cluster);
}

TEST(ExfatFolders, EndAtTheirEndMark) {
    Image image;
    for (const auto& [cluster, name] :
         {std::pair<Cluster, const char16_t*>{70, u"fox.txt"}, {71, u"owl.txt"}})
        image.erase(image.add(cluster, {.name = name, .start = cluster + 10, .size = 100}));
    image.erase(image.add(
        root, {.name = u"masks", .start = 70, .size = 2 * cluster_size, .chained = true, .folder = true}));
    const auto seen = read(image.bytes);
    const auto *folder = seen.find("masks"), *fox = seen.find("fox.txt"), *owl = seen.find("owl.txt");
    ASSERT_TRUE(folder && fox && owl);
    EXPECT_EQ(fox->parent, folder->key);
    EXPECT_NE(owl->parent, folder->key) << "after an end mark nothing follows";
}

TEST(ExfatFolders, GoOnAfterWhatIsInTheFolderTheyNameLast) {
    Image image;
    const std::u16string photo = u"rehearsal photo", note = u"note on puppets";
    for (int i = 0; i + 1 < in_a_cluster; ++i) put_lost(image, 70, photo, i, static_cast<Cluster>(71 + i));
    // The last set of the cluster is a folder's, in which two clusters of notes were written then.
    Cluster next = 110;
    image.erase(image.add(70, {.name = u"a folder of so many notes",
                               .start = next,
                               .size = cluster_size,
                               .chained = true,
                               .folder = true}),
                4);
    for (int i = 0; i < in_a_cluster + 5; ++i) {
        if (i % in_a_cluster == 0) ++next;
        const auto folder = i < in_a_cluster ? Cluster{110} : Cluster{110 + in_a_cluster + 1};
        put_lost(image, folder, note, i, next++);
    }
    const auto more = next++;
    for (int i = in_a_cluster; i < in_a_cluster + 7; ++i) put_lost(image, more, photo, i, next++);
    image.erase(image.add(
        root, {.name = u"photos", .start = 70, .size = cluster_size, .chained = true, .folder = true}));
    const auto seen = read(image.bytes);
    EXPECT_EQ(seen.count_in("a folder of so many notes", "note"), in_a_cluster + 5);
    EXPECT_EQ(seen.count_in("photos", "rehearsal"), in_a_cluster - 1 + 7);
    EXPECT_EQ(seen.find("photos")->claims.size(), 2u) << "its later cluster is its own, too";
}

TEST(ExfatFolders, AreFilledUpByTheSizeThatIsRecorded) {
    Image image;
    const std::u16string photo = u"rehearsal photo";
    for (int i = 0; i < in_a_cluster; ++i) put_lost(image, 70, photo, i, static_cast<Cluster>(400 - 2 * i));
    for (int i = in_a_cluster; i < in_a_cluster + 7; ++i)
        put_lost(image, 200, photo, i, static_cast<Cluster>(500 - i));
    const auto name = [&](std::uint64_t size) {
        auto card = image;
        card.erase(
            card.add(root, {.name = u"photos", .start = 70, .size = size, .chained = true, .folder = true}));
        return read(card.bytes);
    };
    EXPECT_EQ(name(2 * cluster_size).count_in("photos", "rehearsal"), in_a_cluster + 7);
    EXPECT_EQ(name(cluster_size).count_in("photos", "rehearsal"), in_a_cluster);
    // Of two folders that miss a cluster neither gets it.
    for (int i = 0; i < in_a_cluster; ++i)
        put_lost(image, 80, u"evening sound", i, static_cast<Cluster>(600 - 2 * i));
    image.erase(image.add(
        root, {.name = u"sounds", .start = 80, .size = 2 * cluster_size, .chained = true, .folder = true}));
    const auto seen = name(2 * cluster_size);
    EXPECT_EQ(seen.count_in("photos", "rehearsal"), in_a_cluster);
    EXPECT_EQ(seen.count_in("sounds", ""), in_a_cluster);
    EXPECT_EQ(seen.count_in("folder-200", "rehearsal"), 7);
}

TEST(ExfatFolders, DoNotGoOnInAClusterThatIsAnothersFirst) {
    Image image;
    const std::u16string photo = u"rehearsal photo";
    for (int i = 0; i < in_a_cluster; ++i) put_lost(image, 70, photo, i, static_cast<Cluster>(400 - 2 * i));
    put_lost(image, 71, u"another one", 1, 300);
    // Nothing names the folder in which the other one was.
    image.erase(image.add(90, {.name = u"sub", .start = 71, .size = cluster_size, .folder = true}));
    image.erase(image.add(
        root, {.name = u"photos", .start = 70, .size = 2 * cluster_size, .chained = true, .folder = true}));
    const auto seen = read(image.bytes);
    EXPECT_EQ(seen.count_in("photos", ""), in_a_cluster);
    EXPECT_EQ(seen.count_in("sub", "another"), 1);
}

TEST(ExfatFolders, ThatWereFilledInTurnsAreToldApartByTheirNumbers) {
    Image image;
    // Both need a new cluster at the same time; the one that comes second in the root has the first of them.
    Cluster next = 72;
    std::vector<Cluster> of_fox{70}, of_owl{71};
    for (int i = 0; i < 2 * in_a_cluster; ++i) {
        if (i == in_a_cluster) {
            of_owl.push_back(next++);
            of_fox.push_back(next++);
        }
        put_lost(image, of_fox.back(), u"of the fox", 2 * i, next++);
        put_lost(image, of_owl.back(), u"of the owl", 2 * i + 1, next++);
    }
    for (const auto& [name, start] : {std::pair<const char16_t*, Cluster>{u"fox", 70}, {u"owl", 71}})
        image.erase(image.add(
            root, {.name = name, .start = start, .size = cluster_size, .chained = true, .folder = true}));
    const auto seen = read(image.bytes);
    EXPECT_EQ(seen.count_in("fox", "of the fox"), 2 * in_a_cluster);
    EXPECT_EQ(seen.count_in("owl", "of the owl"), 2 * in_a_cluster);
}

TEST(ExfatFolders, OfALargeVolumeAreLookedForWhereTheyGoOn) {
    // No free space is looked through: what is named is followed, and what a sweep found is looked at.
    Image image;
    for (int i = 0; i < in_a_cluster; ++i)
        put_lost(image, 70, u"rehearsal photo", i, static_cast<Cluster>(71 + i));
    const Cluster more = 71 + in_a_cluster, alone = 300;
    put_lost(image, more, u"rehearsal photo", in_a_cluster, more + 1);
    put_lost(image, alone, u"another one", 1, alone + 1);
    image.erase(image.add(
        root, {.name = u"photos", .start = 70, .size = cluster_size, .chained = true, .folder = true}));
    const auto source = test::memory_source(image.bytes);
    ReadOptions options;
    options.search_bytes = 0;
    const auto volume = file_system().recognise(*source, 0)->volume;
    const auto read_with = [&](const std::vector<std::uint64_t>& found) {
        test::Collector out;
        Progress progress;
        const auto reader = file_system().open(*source, volume, NoTraces(), options);
        reader->expect_folders(found);
        reader->read(out, progress);
        reader->remnants(out, progress);
        return out;
    };
    auto seen = read_with({});
    EXPECT_EQ(seen.count_in("photos", "rehearsal"), in_a_cluster + 1);
    EXPECT_FALSE(seen.find("folder-300"));
    seen = read_with({image.place(alone), image.place(root), 17});
    EXPECT_EQ(seen.count_in("photos", "rehearsal"), in_a_cluster + 1);
    EXPECT_EQ(seen.count_in("folder-300", "another"), 1);
}

}  // namespace undershelf::exfat
