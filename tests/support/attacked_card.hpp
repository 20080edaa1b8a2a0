#pragma once
// A card with a shelf and, where it is asked for, bags, in a folder in which somebody may have prepared
// something.

#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>
#include <string>
#include <vector>

#include "support/fat_image.hpp"
#include "support/json.hpp"
#include "support/program.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf::test {

class AttackedCard : public ::testing::Test {
  protected:
    void SetUp() override {
        FatImage card({.clusters = 3000, .sectors_per_cluster = 2});
        card.put(0, "CUES    TXT", u"", {10, 11, 12}, sample_text("cues", 3000));
        card.put(0, "PROPS   CSV", u"", {30}, sample_text("props", 900));
        card.erase(card.put(0, "FOX     TXT", u"", {40, 41}, sample_text("fox", 2000)));
        folder.write("card.img", card.bytes());
        ASSERT_EQ(run({"scan", "card.img"}).status, 0);
    }
    Ran run(std::vector<std::string> arguments) {
        arguments.insert(arguments.begin(), UNDERSHELF_PROGRAM);
        return run_in(folder.path().string(), arguments);
    }
    Ran shell(const std::string& command) { return run_in(folder.path().string(), {"sh", "-c", command}); }
    Ran export_to(const std::string& to) { return run({"export", "card.shelf", "--to", to, "--all"}); }
    std::string at(const std::string& name) { return folder.at(name); }
    std::string file(const std::string& name) { return read_file(folder.at(name)); }

    /// A bag of the same job as export_to()'s, cut off before its first file.
    void make_cut_off_bag(const std::string& name) {
        if (!std::filesystem::exists(at("whole"))) export_to("whole");
        const auto info = file("whole/bag-info.txt");
        const std::string label = "Undershelf-Round: ";
        const auto from = info.find(label) + label.size();
        const auto round = ordered_parsed(info.substr(from, info.find('\n', from) - from));
        const nlohmann::json job = dumped(round["job"]);
        std::filesystem::create_directories(at(name + "/.unfinished/1"));
        std::filesystem::create_directories(at(name + "/data/live"));
        folder.write(name + "/.unfinished/journal.jsonl", "{\"job\":" + dumped(job) + "}\n");
    }
    void append(const std::string& name, const std::string& line) {
        std::ofstream(at(name), std::ios::app | std::ios::binary) << line;
    }
    std::string first_line_of_export() {
        std::istringstream in(file("whole/exported.jsonl"));
        std::string line;
        std::getline(in, line);
        return line;
    }
    static std::string replaced(std::string text, const std::string& from, const std::string& to) {
        const auto at = text.find(from);
        EXPECT_NE(at, std::string::npos) << from;
        return text.replace(at, from.size(), to);
    }

    TemporaryFolder folder;
};

}  // namespace undershelf::test
