#include <gtest/gtest.h>

#include "support/disk_image.hpp"
#include "support/hfsplus_image.hpp"

namespace undershelf::hfsplus {

using namespace test::hfsplus;
using test::put_number;

TEST(HfsPlusOldNames, AreOfTheFileItself) {
    // A format counts ids anew; a file has one birth (createDate, 12 bytes into the record).
    const auto born = [](ByteVector record, std::uint32_t date) {
        const auto at = static_cast<std::size_t>(2 + (record[0] << 8 | record[1]) + 12);
        put_number(record, at, date, 4, true);
        return record;
    };
    Image image;
    image.leaves(Image::catalogue,
                 {{folder_record(20, 2, u"Scripts"), born(file_record({21, 20, u"kept.txt"}), when)}});
    auto at = image.place(Image::catalogue, 1) + 1200;
    for (const auto& r : {born(file_record({21, 20, u"of a former volume.txt"}), when - 86'400),
                          born(file_record({21, 20, u"first name.txt"}), when)}) {
        image.put(at, r);
        at += r.size();
    }
    const auto seen = read(image.bytes);
    std::vector<std::string> names;
    for (const auto& [key, e] : seen.late) {
        if (e.fact == Fact::old_name) names.push_back(e.text);
    }
    EXPECT_EQ(names, std::vector<std::string>{"Scripts/first name.txt"});
}

}  // namespace undershelf::hfsplus
