// Every place in the program that can open something for writing, or make, move or remove it, is listed here
// with the guard that it asks. A new one fails until it is listed.

#include <gtest/gtest.h>

#include <filesystem>
#include <map>
#include <set>
#include <sstream>
#include <string_view>

#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

namespace fs = std::filesystem;

/// What in the source may write to files.
constexpr std::string_view writing[] = {"O_WRONLY",
                                        "O_RDWR",
                                        "O_CREAT",
                                        "ofstream",
                                        "fopen(",
                                        "OPEN_READWRITE",
                                        "OPEN_CREATE",
                                        "sqlite3_open",
                                        "mkdir",
                                        "create_direct",
                                        "create_sym",
                                        "create_hard",
                                        "::rename(",
                                        "renameat",
                                        "::unlink",
                                        "fs::remove",
                                        "filesystem::remove",
                                        "truncate(",
                                        "::fallocate(",
                                        "resize_file(",
                                        "copy_file(",
                                        "mkstemp",
                                        "mknod",
                                        "mkfifo",
                                        "::link(",
                                        "::symlink("};

std::string_view writes(const std::string& text) {
    for (const auto word : writing) {
        if (text.find(word) != std::string::npos) return word;
    }
    return {};
}

/// File, and what is before it. `-`: it writes nothing of a job's.
const std::map<std::string, std::string> guarded{
    {"writing/files.cpp", "guard.refuse"},
    {"writing/folder.cpp", "guard.refuse"},
    {"writing/output_file.cpp", "folder_.open"},
    {"export/bag.cpp", "Folder(guard"},
    {"shelf/database.cpp", "SourceGuard("},
    {"shelf/writer.cpp", "guard.refuse"},
    {"capture/image_file.cpp", "open_to_write(guard"},
    {"cli/demo_command.cpp", "-"},       // its own folder, which it has made itself
    {"cli/output.cpp", "-"},             // /dev/null
    {"content/apart_process.cpp", "-"},  // /dev/null
    {"decoder/wall.cpp", "-"},           // what a filter refuses
    {"content/other/sqlite.cpp", "-"},   // a database in memory
    {"shelf/schema_check.cpp", "-"}      // a database in memory
};

std::string without_comments(const std::string& text) {
    std::istringstream in(text);
    std::string out;
    for (std::string line; std::getline(in, line);) out += line.substr(0, line.find("//")) + "\n";
    return out;
}

}  // namespace

TEST(WritingPlaces, AreAllGuarded) {
    std::set<std::string> met;
    for (const auto& file : fs::recursive_directory_iterator(UNDERSHELF_SOURCE_DIR)) {
        const auto path = file.path().lexically_relative(UNDERSHELF_SOURCE_DIR).string();
        if ((!path.ends_with(".cpp") && !path.ends_with(".hpp")) || path.ends_with("_test.cpp")) continue;
        const auto text = without_comments(test::read_file(file.path().string()));
        const auto found = writes(text);
        if (found.empty()) continue;
        const auto it = guarded.find(path);
        ASSERT_NE(it, guarded.end()) << path << " may write (" << found
                                     << "): have it ask a SourceGuard, and list it here";
        if (it->second != "-") {
            EXPECT_NE(text.find(it->second), std::string::npos) << path << " has lost its guard";
        }
        met.insert(path);
    }
    for (const auto& [path, guard] : guarded) EXPECT_TRUE(met.count(path)) << path << " writes no more";
}

}  // namespace undershelf
