#include "support/bag_validator.hpp"

#include <openssl/evp.h>

#include <filesystem>
#include <fstream>
#include <map>
#include <regex>
#include <set>
#include <sstream>

namespace undershelf::test {

namespace {

namespace fs = std::filesystem;

std::string content_of(const fs::path& path) {
    std::ifstream in(path, std::ios::binary);
    std::ostringstream out;
    out << in.rdbuf();
    return out.str();
}

std::string checksum(const std::string& algorithm, const std::string& content) {
    unsigned char digest[EVP_MAX_MD_SIZE];
    unsigned length = 0;
    if (EVP_Digest(content.data(), content.size(), digest, &length, EVP_get_digestbyname(algorithm.c_str()),
                   nullptr) != 1)
        return "none";
    std::string out;
    for (unsigned i = 0; i < length; ++i) {
        constexpr const char* digits = "0123456789abcdef";
        out += digits[digest[i] >> 4];
        out += digits[digest[i] & 15];
    }
    return out;
}

class Validator {
  public:
    explicit Validator(fs::path folder) : folder_(std::move(folder)) {}

    std::vector<std::string> run() {
        check_declaration();
        if (!fs::is_directory(folder_ / "data")) say("2.1.2: there is no folder data");
        for (const auto& file : fs::directory_iterator(folder_)) {
            const auto name = file.path().filename().string();
            std::smatch part;
            static const std::regex manifest("(tag)?manifest-([a-z0-9]+)\\.txt");
            if (std::regex_match(name, part, manifest)) read_manifest(name, part[2], part[1].matched);
        }
        if (manifests_.empty()) say("2.1.3: there is no payload manifest");
        check_payload();
        check_info();
        return said_;
    }

  private:
    void say(const std::string& sentence) { said_.push_back(sentence); }

    /// 2.1.1: exactly these two lines, UTF-8 without a byte order mark.
    void check_declaration() {
        static const std::regex form(
            "BagIt-Version: [0-9]+\\.[0-9]+\\n?\\r?\\n?Tag-File-Character-Encoding: UTF-8\\n?");
        if (!std::regex_match(content_of(folder_ / "bagit.txt"), form)) say("2.1.1: bagit.txt");
    }

    /// 2.1.3 and 2.2.1: a checksum, blanks, a path that stays in the bag; each path once.
    void read_manifest(const std::string& name, const std::string& algorithm, bool of_tags) {
        static const std::regex form("([0-9A-Fa-f]+)[ \\t]+(.+)");
        std::istringstream in(content_of(folder_ / name));
        std::set<std::string> paths;
        for (std::string line; std::getline(in, line);) {
            std::smatch part;
            if (!std::regex_match(line, part, form)) {
                say(name + ": not a line of a manifest: " + line);
                continue;
            }
            const std::string path = part[2];
            const bool in_data = path.starts_with("data/");
            if (path.find("..") != path.npos || path.starts_with("/") || path.starts_with("~"))
                say(name + ": leads out of the bag: " + path);
            if (in_data == of_tags) say(name + ": is no place for " + path);
            if (!paths.insert(path).second) say(name + ": twice: " + path);
            // 3: complete, and valid.
            if (!fs::is_regular_file(folder_ / path)) {
                say(name + ": is not there: " + path);
            } else if (checksum(algorithm, content_of(folder_ / path)) != std::string(part[1])) {
                say(name + ": has another checksum: " + path);
            }
        }
        if (!of_tags) manifests_[name] = std::move(paths);
    }

    /// 3: every payload file is in every payload manifest.
    void check_payload() {
        for (const auto& file : fs::recursive_directory_iterator(folder_ / "data")) {
            if (file.is_directory()) continue;
            const auto path = file.path().lexically_relative(folder_).string();
            for (const auto& [name, paths] : manifests_) {
                if (!paths.count(path)) say(name + ": does not list " + path);
            }
            bytes_ += file.file_size();
            ++files_;
        }
    }

    /// 2.2.2: labels and values; Payload-Oxum once, and right.
    void check_info() {
        static const std::regex form("[^:\\s][^:]*: .*|[ \\t]+.*");
        std::istringstream in(content_of(folder_ / "bag-info.txt"));
        int oxums = 0;
        for (std::string line; std::getline(in, line);) {
            if (!std::regex_match(line, form)) say("bag-info.txt: not a line of it: " + line);
            if (!line.starts_with("Payload-Oxum: ")) continue;
            ++oxums;
            const auto right = std::to_string(bytes_) + "." + std::to_string(files_);
            if (line.substr(14) != right) say("bag-info.txt: " + line + ", and it is " + right);
        }
        if (oxums > 1) say("bag-info.txt: Payload-Oxum is not repeated");
    }

    fs::path folder_;
    std::map<std::string, std::set<std::string>> manifests_;
    std::uintmax_t bytes_ = 0, files_ = 0;
    std::vector<std::string> said_;
};

}  // namespace

std::vector<std::string> against_bagit(const std::string& folder) {
    return Validator(folder).run();
}

}  // namespace undershelf::test
