#include "export/bag_tags.hpp"

#include <fcntl.h>
#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <set>
#include <system_error>

#include "base/error.hpp"
#include "base/line_reader.hpp"
#include "export/bag_files.hpp"
#include "export/exported_entry.hpp"
#include "writing/output_file.hpp"

namespace undershelf {

namespace {

/// Algorithms that RFC 8493, section 2.4, names, by the names that OpenSSL has for them, with their hex
/// digits.
struct Algorithm {
    std::string_view word, name;
    std::size_t digits;
};
constexpr Algorithm algorithms[] = {{"md5", "MD5", 32},          {"sha1", "SHA1", 40},
                                    {"sha224", "SHA224", 56},    {"sha256", "SHA256", 64},
                                    {"sha384", "SHA384", 96},    {"sha512", "SHA512", 128},
                                    {"sha3256", "SHA3-256", 64}, {"sha3512", "SHA3-512", 128}};

std::string in_lower_case(std::string text) {
    for (auto& c : text) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return text;
}

/// Section 2.1.3: line ends and per cent signs in paths are percent-encoded.
std::string decoded_path(const std::string& path) {
    if (path.find('%') == std::string::npos) return path;
    std::string out;
    for (std::size_t i = 0; i < path.size(); ++i) {
        const auto code = in_lower_case(path.substr(i, 3));
        const char c = code == "%0a" ? '\n' : code == "%0d" ? '\r' : code == "%25" ? '%' : '\0';
        out += c ? c : path[i];
        if (c) i += 2;
    }
    return out;
}

/// Calls `visit(line, number)`. What can't be read is said.
template <class Visit>
void each_line(const Folder& bag, const std::string& name, std::vector<std::string>& wrong,
               const Visit& visit) {
    try {
        const auto place = bag_file::place_of_tag(bag, name);
        if (!bag.is_file(place)) {
            wrong.push_back(fmt::format("{} is not a file.", name));
            return;
        }
        const auto fd = bag.open(place, O_RDONLY | O_NONBLOCK);
        LineReader lines(fd.get());
        std::string all;
        for (int number = 1; lines.next(all);) {
            if (number == 1 && all.starts_with("\xEF\xBB\xBF")) all.erase(0, 3);
            // Lines of old Macintosh files end in CR alone.
            for (std::size_t at = 0; at <= all.size(); ++number) {
                const auto end = std::min(all.find('\r', at), all.size());
                visit(all.substr(at, end - at), number);
                at = end + 1;
            }
        }
    } catch (const std::system_error& e) {
        wrong.push_back(fmt::format("{} cannot be read: {}.", name, in_words(e.code())));
    }
}

/// `Label: value`; nothing for a line without a label.
std::optional<std::pair<std::string, std::string>> tag_in(const std::string& line) {
    const auto colon = line.find(':');
    if (colon == std::string::npos) return std::nullopt;
    const auto from = line.find_first_not_of(" \t", colon + 1);
    auto value = from == std::string::npos ? std::string() : line.substr(from);
    while (!value.empty() && (value.back() == ' ' || value.back() == '\t')) value.pop_back();
    return std::pair(line.substr(0, colon), value);
}

class Reader {
  public:
    explicit Reader(const Folder& bag) : bag_(bag) {}

    BagTags run() && {
        read_bagit();
        const auto take = [&](const std::string& name, const struct stat&) {
            if (name.ends_with(".txt") && (name.starts_with("manifest-") || name.starts_with("tagmanifest-")))
                names_.insert(name);
            return true;
        };
        bag_.each("", take);
        if (bag_.status(bag_file::new_tags)) bag_.each(bag_file::new_tags, take);
        for (const auto& name : names_) read_manifest(name);
        if (std::none_of(out_.manifests.begin(), out_.manifests.end(),
                         [](const auto& m) { return !m.of_tags; }))
            throw Error(Trouble::input,
                        fmt::format("{} is not an export: it has no manifest-sha256.txt.", bag_.path()));
        if (is_there(bag_file::info_name)) read_info();
        if (bag_.status("fetch.txt")) read_fetch();
        if (out_.ours) read_exported();
        return std::move(out_);
    }

  private:
    bool is_there(const char* name) const {
        return bag_.status(bag_file::place_of_tag(bag_, name)).has_value();
    }

    /// Section 2.1.1.
    void read_bagit() {
        if (!bag_.is_file(bag_file::place_of_tag(bag_, bag_file::declaration_name)))
            throw Error(Trouble::input,
                        fmt::format("{} is not an export: it has no bagit.txt.", bag_.path()));
        bool version = false, encoding = false;
        each_line(bag_, "bagit.txt", out_.wrong, [&](const std::string& line, int) {
            const auto tag = tag_in(line);
            if (!tag) return;
            if (tag->first == "BagIt-Version")
                version = bag_file::parse_two(tag->second, out_.major, out_.minor);
            if (tag->first == "Tag-File-Character-Encoding") encoding = in_lower_case(tag->second) == "utf-8";
        });
        if (!version) out_.wrong.push_back("bagit.txt does not say which version of BagIt it is of.");
        if (version && out_.major > 1)
            out_.wrong.push_back(fmt::format("The bag is of BagIt {}.{}, which this program does not know.",
                                             out_.major, out_.minor));
        if (!encoding) out_.wrong.push_back("bagit.txt does not say that its tag files are UTF-8.");
    }

    /// Section 2.1.3.
    void read_manifest(const std::string& name) {
        BagManifest m;
        m.name = name;
        m.of_tags = name.starts_with("tag");
        const auto dash = name.find('-');
        const auto word = in_lower_case(name.substr(dash + 1, name.size() - dash - 1 - 4));
        const auto* known = std::find_if(std::begin(algorithms), std::end(algorithms),
                                         [&](const Algorithm& a) { return a.word == word; });
        if (known == std::end(algorithms)) {
            out_.wrong.push_back(
                fmt::format("{} cannot be checked: this program does not know `{}` checksums.", name, word));
        } else {
            m.algorithm = known->name;
        }
        each_line(bag_, name, out_.wrong, [&](const std::string& line, int number) {
            if (line.empty()) return;
            const auto blank = line.find_first_of(" \t");
            const auto path_at = blank == std::string::npos ? blank : line.find_first_not_of(" \t*", blank);
            auto checksum = in_lower_case(line.substr(0, blank));
            const bool hex = checksum.find_first_not_of("0123456789abcdef") == std::string::npos;
            if (path_at == std::string::npos || !hex ||
                (!m.algorithm.empty() && checksum.size() != known->digits)) {
                out_.wrong.push_back(fmt::format("{}, line {}, is not a checksum and a path.", name, number));
                return;
            }
            auto path = decoded_path(line.substr(path_at));
            if (path.starts_with("./")) path.erase(0, 2);
            m.lines.push_back({std::move(path), std::move(checksum)});
        });
        check_twice(m);
        out_.manifests.push_back(std::move(m));
    }

    /// A path that is listed twice is a mistake unless both lines say the same (section 2.1.3).
    void check_twice(const BagManifest& m) {
        std::map<std::string_view, std::string_view> seen;
        for (const auto& line : m.lines) {
            const auto [it, fresh] = seen.emplace(line.path, line.checksum);
            if (!fresh && it->second != line.checksum)
                out_.wrong.push_back(
                    fmt::format("{} lists {} twice, with two checksums.", m.name, line.path));
        }
    }

    /// Section 2.2.2.
    void read_info() {
        each_line(bag_, "bag-info.txt", out_.wrong, [&](const std::string& line, int) {
            const auto tag = tag_in(line);
            if (!tag) return;
            const auto label = in_lower_case(tag->first);
            // Bags of earlier versions have their one job in a line of its own.
            out_.ours |= label == "undershelf-round" || label == "undershelf-job";
            if (label != "payload-oxum") return;
            out_.oxum = payload_oxum_in(tag->second);
            if (!out_.oxum) {
                out_.wrong.push_back("Payload-Oxum in bag-info.txt is not two numbers.");
            }
        });
    }

    /// Section 2.2.3: files that have to be fetched from elsewhere. What is there is checked like any other.
    void read_fetch() {
        std::uint64_t files = 0;
        each_line(bag_, "fetch.txt", out_.wrong,
                  [&](const std::string& line, int) { files += !line.empty(); });
        if (files)
            out_.wrong.push_back(
                fmt::format("fetch.txt lists {} files that have to be fetched from elsewhere.", files));
    }

    void read_exported() {
        if (!is_there(bag_file::exported_name)) {
            out_.wrong.push_back("exported.jsonl is missing.");
            return;
        }
        each_line(bag_, "exported.jsonl", out_.wrong, [&](const std::string& line, int number) {
            if (line.empty()) return;
            const auto e = gist_of(line);
            if (!e || (e->path_in_bag && !is_place_in_bag(*e->path_in_bag)) ||
                (!e->leads_to.empty() && !is_place_in_bag(e->leads_to))) {
                out_.wrong.push_back(
                    fmt::format("exported.jsonl, line {}, is not one of an export.", number));
                return;
            }
            if (!e->path_in_bag) return;
            if (!e->leads_to.empty()) out_.links[*e->path_in_bag] = e->leads_to;
            // A link to a folder has no checksum.
            if (e->leads_to.empty() || !e->sha256.empty()) out_.exported[*e->path_in_bag] = e->sha256;
        });
    }

    const Folder& bag_;
    std::set<std::string> names_;
    BagTags out_;
};

}  // namespace

BagTags read_bag_tags(const Folder& bag) {
    return Reader(bag).run();
}

}  // namespace undershelf
