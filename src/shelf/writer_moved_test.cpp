#include <gtest/gtest.h>

#include "shelf/writer.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

struct MovedRows : testing::Test {
    MovedRows() {
        Volume v;
        v.number = 1;
        v.family = "exFAT";
        writer.set_volumes({v});
    }
    void add(std::int64_t id, std::int64_t in, const std::string& name, bool is_dir, Layout layout) {
        Entry e;
        e.key = {static_cast<std::uint64_t>(id), 0};
        e.name = name;
        e.is_dir = is_dir;
        e.origin = Origin::deleted;
        e.size = is_dir ? 0 : 1000;
        e.start = 4096;
        e.created = Timestamp{10'000'000'000 + 1, 0};
        e.layout = layout;
        if (layout != Layout::none) {
            e.claims = {{4096, 1024}};
            e.pieces = {{PieceKind::stored, true, 0, 1000, 4096, {}, {}, {}}};
        }
        writer.add_entry(id, 1, in, e, sorting_of(e), {});
    }
    void add_folder(std::int64_t id, std::int64_t in, const std::string& place) {
        add(id, in, std::string(name_in(place)), true, Layout::known);
        writer.add_folder(id, 1, place);
    }
    std::uint64_t unite() {
        writer.commit();
        const auto united = writer.unite(group_moved(writer.lost_places(false)));
        writer.commit();
        return united;
    }
    std::vector<std::string> paths() {
        std::vector<std::string> out;
        writer.view().for_each({}, {}, [&](const ShelfEntry& e) {
            out.push_back(e.path());
            return true;
        });
        return out;
    }

    test::TemporaryFolder folder;
    ShelfWriter writer{SourceGuard::no_source(), folder.at("a.shelf")};
};

}  // namespace

TEST_F(MovedRows, TakeTheContentOfTheOneThatHasIt) {
    // The first to be read had the clusters, so that the later place found them taken.
    writer.add_folder(-1, 1, "");
    add(1, -1, "draft.txt", false, Layout::known);
    add(2, -1, "final.txt", false, Layout::none);
    EXPECT_EQ(unite(), 1u);
    const auto view = writer.view();
    EXPECT_EQ(paths(), std::vector<std::string>{"final.txt"});
    ASSERT_EQ(view.pieces(2).size(), 1u);
    EXPECT_EQ(view.claims(2).front().offset, 4096u);
    view.for_each({}, {}, [](const ShelfEntry& e) {
        EXPECT_EQ(e.layout, Layout::known);
        EXPECT_EQ(e.earlier_names, std::vector<std::string>{"draft.txt"});
        return true;
    });
    EXPECT_EQ(view.set_aside(1)->merged_into, 2);
}

TEST_F(MovedRows, NeverPutAFolderIntoItself) {
    // Slots that somebody made: a folder, and in it another entry of the same cluster.
    writer.add_folder(-1, 1, "");
    add_folder(1, -1, "Season");
    add_folder(2, 1, "Season/Season again");
    EXPECT_EQ(unite(), 0u);
    EXPECT_EQ(paths(), (std::vector<std::string>{"Season", "Season/Season again"}));
}

TEST_F(MovedRows, OfSeveralFoldersBecomeOneTree) {
    writer.add_folder(-1, 1, "");
    add_folder(1, -1, "Season");
    add_folder(2, -1, "Archive");  // of another cluster
    add_folder(3, 2, "Archive/Season 1");
    add(4, 1, "cue.txt", false, Layout::none);
    writer.commit();
    auto groups = group_moved(writer.lost_places(false));
    ASSERT_EQ(groups.size(), 1u);
    std::erase_if(groups[0], [](const LostPlace& p) { return p.id == 2; });
    writer.unite(std::move(groups));
    writer.commit();
    EXPECT_EQ(paths(), (std::vector<std::string>{"Archive", "Archive/Season 1", "Archive/Season 1/cue.txt"}));
}

}  // namespace undershelf
