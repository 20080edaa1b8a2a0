// Bags are only sound with all that was exported, in files of their own, as their standard says (RFC 8493).

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/stat.h>

#include <cctype>
#include <filesystem>
#include <sstream>

#include "support/attacked_card.hpp"

namespace undershelf::test {

namespace {

namespace fs = std::filesystem;
using ::testing::AllOf;
using ::testing::HasSubstr;

/// A bag, and what is done to it.
class Bags : public AttackedCard {
  protected:
    void SetUp() override {
        AttackedCard::SetUp();
        export_to("bag");
    }
    Ran verify() {
        return run_in(folder.path().string(), {"timeout", "20", UNDERSHELF_PROGRAM, "verify", "bag"});
    }
    std::string payload() { return at("bag/data/live/CUES.TXT"); }
};

}  // namespace

TEST_F(Bags, AreNotSoundWithLessThanWasExported) {
    EXPECT_EQ(verify().status, 0);
    // A line, its file and the checksums of the manifests are gone.
    fs::remove(payload());
    fs::remove(at("bag/tagmanifest-sha256.txt"));
    const auto manifest = file("bag/manifest-sha256.txt");
    const auto line = manifest.rfind('\n', manifest.find("CUES.TXT")) + 1;
    folder.write("bag/manifest-sha256.txt",
                 manifest.substr(0, line) + manifest.substr(manifest.find('\n', line) + 1));
    EXPECT_THAT(verify().out, AllOf(HasSubstr("bag-info.txt says"), HasSubstr("tagmanifest-sha256.txt"),
                                    HasSubstr("CUES.TXT is in exported.jsonl, and not in the manifest")));
    // Nothing is left.
    folder.write("bag/manifest-sha256.txt", std::string());
    fs::remove_all(at("bag/data"));
    const auto nothing = verify();
    EXPECT_EQ(nothing.status, 1);
    EXPECT_THAT(nothing.out, HasSubstr("The folder `data` is missing"));
}

TEST_F(Bags, HoldTheirFilesThemselves) {
    fs::rename(payload(), at("elsewhere"));
    fs::create_symlink(at("elsewhere"), payload());
    EXPECT_THAT(verify().out, AllOf(HasSubstr("links are not followed"), HasSubstr("1 changed")));
    fs::remove(payload());
    fs::create_symlink("/dev/zero", payload());
    EXPECT_EQ(verify().status, 1);
    fs::remove(payload());
    ASSERT_EQ(::mkfifo(payload().c_str(), 0600), 0);
    EXPECT_THAT(verify().out, HasSubstr("CUES.TXT is not a file"));
    fs::remove(payload());
    fs::rename(at("elsewhere"), payload());
    fs::create_directory_symlink("/etc", at("bag/data/etc"));
    EXPECT_THAT(verify().out, AllOf(HasSubstr("data/etc was added (a link)"), HasSubstr("1 added")));
    fs::remove(at("bag/data/etc"));
    EXPECT_EQ(verify().status, 0);
}

TEST_F(Bags, AreReadAsTheirStandardSays) {
    // Checksums in upper case, lines that end in CRLF, other algorithms, a byte order mark.
    auto manifest = file("bag/manifest-sha256.txt");
    for (auto& c : manifest) c = static_cast<char>(c >= 'a' && c <= 'f' ? c - 32 : c);
    fs::remove(at("bag/tagmanifest-sha256.txt"));
    fs::remove(at("bag/exported.jsonl"));
    std::string crlf = "\xEF\xBB\xBF";
    std::istringstream in(file("bag/manifest-sha256.txt"));
    for (std::string line; std::getline(in, line);) {
        for (std::size_t i = 0; i < 64; ++i) line[i] = static_cast<char>(std::toupper(line[i]));
        crlf += line + "\r\n";
    }
    folder.write("bag/manifest-sha256.txt", crlf);
    folder.write("bag/bag-info.txt", std::string("Contact-Name: Odile\r\n"));
    ASSERT_EQ(shell("cd bag && find data -type f -exec md5sum {} + > manifest-md5.txt").status, 0);
    EXPECT_EQ(verify().status, 0) << verify().out;
    // Every manifest counts, and lists everything.
    const auto md5 = file("bag/manifest-md5.txt");
    folder.write("bag/manifest-md5.txt", md5.substr(md5.find('\n') + 1));
    EXPECT_THAT(verify().out, HasSubstr("is not in all of the manifests"));
    folder.write("bag/manifest-md5.txt", "0" + md5.substr(1) + "x\n");
    EXPECT_THAT(verify().out, AllOf(HasSubstr("is not a checksum and a path")));
    folder.write("bag/manifest-md5.txt", md5);
    folder.write("bag/manifest-crc9.txt", std::string("00 data/x\n"));
    EXPECT_THAT(verify().out, HasSubstr("does not know `crc9` checksums"));
    fs::remove(at("bag/manifest-crc9.txt"));
    folder.write("bag/bagit.txt", std::string("Tag-File-Character-Encoding: UTF-8\n"));
    EXPECT_THAT(verify().out, HasSubstr("does not say which version"));
}

}  // namespace undershelf::test
