#pragma once
// The tag files of a bag (RFC 8493, section 2): what each says, and what is wrong with it.

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "export/bag_info.hpp"
#include "writing/folder.hpp"

namespace undershelf {

/// A manifest, or a tag manifest.
struct BagManifest {
    std::string name;       ///< of its file
    std::string algorithm;  ///< as OpenSSL knows it; empty for one that this program does not know
    bool of_tags = false;
    struct Line {
        std::string path, checksum;  ///< decoded, and in lower case
    };
    std::vector<Line> lines;
};

struct BagTags {
    int major = 1, minor = 0;  ///< version of BagIt
    std::vector<BagManifest> manifests;
    std::optional<PayloadOxum> oxum;
    bool ours = false;  ///< made by an export
    std::map<std::string, std::string>
        exported;  ///< of such a one: checksums by path, as exported.jsonl has them
    std::map<std::string, std::string> links;  ///< what those that were made links lead to, by path
    std::vector<std::string> wrong;            ///< sentences
};

/// Reads all of them; lines end in LF, CRLF or CR. Throws Error(input) when there is no bagit.txt, or no
/// manifest.
BagTags read_bag_tags(const Folder& bag);

}  // namespace undershelf
