#include "export/verify.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <openssl/evp.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <unistd.h>

#include <cerrno>
#include <map>
#include <memory>
#include <mutex>
#include <unordered_set>

#include "base/bytes.hpp"
#include "base/error.hpp"
#include "base/slash_path.hpp"
#include "export/bag_files.hpp"
#include "export/bag_past.hpp"
#include "export/bag_tags.hpp"
#include "writing/folder.hpp"
#include "writing/output_file.hpp"

namespace undershelf {

namespace {

constexpr const char* payload_folder = "data";

class Digest {
  public:
    explicit Digest(const std::string& algorithm)
        : context_(EVP_MD_CTX_new(), EVP_MD_CTX_free),
          good_(EVP_DigestInit_ex(context_.get(), EVP_get_digestbyname(algorithm.c_str()), nullptr) == 1) {}

    void add(Bytes bytes) {
        good_ = good_ && EVP_DigestUpdate(context_.get(), bytes.data(), bytes.size()) == 1;
    }
    /// Empty where the algorithm cannot be had here.
    std::string hex() {
        unsigned char out[EVP_MAX_MD_SIZE];
        unsigned length = 0;
        if (!good_ || EVP_DigestFinal_ex(context_.get(), out, &length) != 1) return {};
        constexpr std::string_view digits = "0123456789abcdef";
        std::string text;
        for (unsigned i = 0; i < length; ++i) {
            text += digits[out[i] >> 4];
            text += digits[out[i] & 15];
        }
        return text;
    }

  private:
    std::unique_ptr<EVP_MD_CTX, void (*)(EVP_MD_CTX*)> context_;
    bool good_;
};

/// A file that manifests name, and what they say of it.
struct Named {
    std::string path;
    std::map<std::string, std::string> checksums;  ///< by algorithm
    std::size_t manifests = 0;                     ///< that name it
};

enum class State : std::uint8_t { as_written, changed, missing, unreadable };
struct Finding {
    State state = State::as_written;
    std::string sentence;
};

class Checker {
  public:
    Checker(const std::string& folder, Progress& progress) : bag_(folder), progress_(progress) {}

    Verification run() {
        progress_.stage("checking");
        round_ = unfinished_round_in(bag_);
        if (round_) check_unfinished();
        out_.any_finished = !round_ || bag_.is_file(bag_file::place_of_tag(bag_, bag_file::declaration_name));
        if (!out_.any_finished) return std::move(out_);
        tags_ = read_bag_tags(bag_);
        for (auto& sentence : tags_.wrong) differ(std::move(sentence));
        check_tags();
        check_payload();
        return std::move(out_);
    }

  private:
    std::vector<Named> named(bool tags) const {
        std::map<std::string, Named> all;
        for (const auto& m : tags_.manifests) {
            if (m.of_tags != tags) continue;
            for (const auto& line : m.lines) {
                auto& n = all[line.path];
                n.path = line.path;
                ++n.manifests;
                if (!m.algorithm.empty()) n.checksums.emplace(m.algorithm, line.checksum);
            }
        }
        std::vector<Named> out;
        for (auto& [path, n] : all) out.push_back(std::move(n));
        return out;
    }

    void check_tags() {
        const auto files = named(true);
        const auto findings = check(files);
        for (const auto& f : findings) count(f);
        if (!tags_.ours) return;
        // An export has checksums for all of its own tag files.
        for (const auto* name : {"bagit.txt", "bag-info.txt", "exported.jsonl", "manifest-sha256.txt"}) {
            const auto is = [&](const Named& n) { return n.path == name; };
            if (std::none_of(files.begin(), files.end(), is))
                differ(fmt::format("tagmanifest-sha256.txt has no checksum of {}.", name));
        }
    }

    void check_payload() {
        const auto files = named(false);
        const auto findings = check(files);
        if ((out_.interrupted |= progress_.stopped())) return;
        out_.files = files.size();
        for (std::size_t i = 0; i < files.size(); ++i) {
            count(findings[i]);
            out_.as_written += findings[i].state == State::as_written;
        }
        check_lists(files);
        check_folder_links(files);
        walk_payload(files);
    }

    /// Several at a time.
    std::vector<Finding> check(const std::vector<Named>& files) {
        std::vector<Finding> findings(files.size());
        tbb::parallel_for(
            tbb::blocked_range<std::size_t>(0, files.size(), 1),
            [&](const tbb::blocked_range<std::size_t>& range) {
                for (auto i = range.begin(); i < range.end() && !progress_.stopped(); ++i)
                    findings[i] = finding(files[i]);
            },
            tbb::simple_partitioner());
        return findings;
    }

    /// A link holds where it says what it said when it was made; what it leads to is checked by itself.
    Finding link_finding(const std::string& path, const std::string& leads_to) {
        try {
            const auto target = bag_.link_target(path);
            if (target == relative_path(folder_in(path), leads_to)) return {};
            if (!target && !bag_.status(path)) return {State::missing, fmt::format("{} is missing.", path)};
            return {State::changed,
                    fmt::format("{} is not what was exported: it was a link to {}.", path, leads_to)};
        } catch (const std::system_error& e) {
            return {State::unreadable, fmt::format("{} cannot be read: {}.", path, in_words(e.code()))};
        }
    }

    void check_folder_links(const std::vector<Named>& files) {
        for (const auto& [path, leads_to] : tags_.links) {
            if (!find(files, path)) count(link_finding(path, leads_to));
        }
    }

    static const Named* find(const std::vector<Named>& files, const std::string& path) {
        const auto it = std::lower_bound(files.begin(), files.end(), path,
                                         [](const Named& n, const std::string& p) { return n.path < p; });
        return it == files.end() || it->path != path ? nullptr : &*it;
    }

    /// What a round has written that is not finished; `read_bag_tags` does not know it.
    void check_unfinished() {
        out_.unfinished_command = round_->command;
        std::vector<Named> files;
        for (const auto& line : round_->lines) {
            files.push_back({*line.path_in_bag, {{"SHA256", line.sha256}}, 1});
            if (!line.leads_to.empty()) tags_.links[*line.path_in_bag] = line.leads_to;
        }
        const auto findings = check(files);
        out_.interrupted |= progress_.stopped();
        for (std::size_t i = 0; i < files.size(); ++i) {
            in_unfinished_.insert(files[i].path);
            out_.unfinished.push_back(
                findings[i].state == State::as_written
                    ? fmt::format("{} was written by a round that is not finished.", files[i].path)
                    : fmt::format("{} is of a round that is not finished, and is not there in full yet.",
                                  files[i].path));
        }
        for (const auto id : round_->parts)
            out_.unfinished.push_back(
                fmt::format("The file of entry {} was begun, and is not there yet.", id));
    }

    Finding finding(const Named& file) {
        const auto& path = file.path;
        if (!stays_below(path))
            return {State::unreadable, fmt::format("{} is outside the bag, and was not looked at.", path)};
        if (const auto link = tags_.links.find(path); link != tags_.links.end())
            return link_finding(path, link->second);
        try {
            // Tag files may be on their way to their places.
            const bool payload = path.starts_with(std::string(payload_folder) + "/");
            const auto fd = bag_.open_existing(payload ? path : bag_file::place_of_tag(bag_, path),
                                               O_RDONLY | O_NONBLOCK | O_NOCTTY);
            if (!fd) return {State::missing, fmt::format("{} is missing.", path)};
            struct stat status {};
            if (::fstat(fd->get(), &status) != 0) throw std::system_error(errno, std::generic_category());
            if (!S_ISREG(status.st_mode))
                return {State::changed, fmt::format("{} is not a file; it was exported as one.", path)};
            return hashed(file, fd->get());
        } catch (const std::system_error& e) {
            const int code = e.code().value();
            if (code == ELOOP)
                return {State::changed,
                        fmt::format("{} is or was reached by a link; links are not followed.", path)};
            if (code == ENOTDIR) return {State::missing, fmt::format("{} is missing.", path)};
            return {State::unreadable, fmt::format("{} cannot be read: {}.", path, in_words(e.code()))};
        }
    }

    Finding hashed(const Named& file, int fd) {
        std::map<std::string, Digest> digests;
        for (const auto& [algorithm, checksum] : file.checksums) digests.emplace(algorithm, algorithm);
        thread_local ByteVector buffer(256 << 10);
        while (!progress_.stopped()) {
            const auto n = ::read(fd, buffer.data(), buffer.size());
            if (n < 0 && errno == EINTR) continue;
            if (n < 0) throw std::system_error(errno, std::generic_category());
            if (n == 0) break;
            for (auto& [algorithm, digest] : digests)
                digest.add(Bytes(buffer).first(static_cast<std::size_t>(n)));
            const std::lock_guard lock(mutex_);
            progress_.at(out_.bytes += static_cast<std::uint64_t>(n), 0);
        }
        for (const auto& [algorithm, checksum] : file.checksums) {
            if (digests.at(algorithm).hex() != checksum)
                return {State::changed,
                        fmt::format("{} is not what was exported: its checksum differs.", file.path)};
        }
        return {};
    }

    /// Every manifest lists every file (section 2.1.3); and an export says the same of them in two places.
    void check_lists(const std::vector<Named>& files) {
        const auto manifests = static_cast<std::size_t>(std::count_if(
            tags_.manifests.begin(), tags_.manifests.end(), [](const auto& m) { return !m.of_tags; }));
        for (const auto& f : files) {
            if (f.manifests < manifests && tags_.major >= 1)
                differ(fmt::format("{} is not in all of the manifests.", f.path));
            if (!f.path.starts_with(std::string(payload_folder) + "/"))
                differ(fmt::format("{} is in a manifest of files, and not in `data`.", f.path));
            if (!tags_.ours) continue;
            const auto it = tags_.exported.find(f.path);
            const auto sum = f.checksums.find("SHA256");
            if (it == tags_.exported.end() || sum == f.checksums.end() || it->second != sum->second)
                differ(
                    fmt::format("{} has another checksum in the manifest than in exported.jsonl.", f.path));
        }
        if (!tags_.ours) return;
        for (const auto& [path, leads_to] : tags_.links) {
            const auto *link = find(files, path), *led_to = find(files, leads_to);
            if (link && (!led_to || link->checksums != led_to->checksums))
                differ(fmt::format("{} has another checksum than {}, to which it leads.", path, leads_to));
        }
        for (const auto& [path, checksum] : tags_.exported) {
            if (!find(files, path))
                differ(fmt::format("{} is in exported.jsonl, and not in the manifest.", path));
        }
    }

    void walk_payload(const std::vector<Named>& files) {
        const auto there = bag_.status(payload_folder);
        if (!there || !S_ISDIR(there->st_mode)) {
            differ("The folder `data` is missing.");
        } else {
            walk(payload_folder, files);
        }
        // Where files are known to be changed, missing or added, the sum says nothing more.
        const bool explained = out_.changed + out_.missing + out_.extra + out_.unreadable > 0;
        if (tags_.oxum && (tags_.oxum->bytes != payload_.bytes || tags_.oxum->files != payload_.files) &&
            !explained)
            differ(
                fmt::format("`data` holds {} bytes in {} files, and bag-info.txt says {} bytes in {} files.",
                            payload_.bytes, payload_.files, tags_.oxum->bytes, tags_.oxum->files));
    }

    void walk(const std::string& folder, const std::vector<Named>& files) {
        std::vector<std::string> folders;
        try {
            bag_.each(folder, [&](const std::string& name, const struct stat& status) {
                const auto path = folder + "/" + name;
                if (S_ISDIR(status.st_mode)) {
                    folders.push_back(path);
                    return !progress_.stopped();
                }
                if (S_ISREG(status.st_mode) && !in_unfinished_.count(path)) {
                    payload_.bytes += static_cast<std::uint64_t>(status.st_size);
                    ++payload_.files;
                }
                const auto link = tags_.links.find(path);
                // A link to a file counts as that file.
                if (link != tags_.links.end() && find(files, path)) {
                    if (const auto led_to = final_status(link->second))
                        payload_.bytes += static_cast<std::uint64_t>(led_to->st_size);
                    ++payload_.files;
                }
                if (link == tags_.links.end() && !find(files, path) && !in_unfinished_.count(path)) {
                    ++out_.extra;
                    differ(fmt::format("{} was added{}; no manifest knows it.", path,
                                       S_ISREG(status.st_mode)   ? ""
                                       : S_ISLNK(status.st_mode) ? " (a link)"
                                                                 : " (not a file)"));
                }
                return !progress_.stopped();
            });
        } catch (const std::system_error& e) {
            ++out_.unreadable;
            differ(fmt::format("The folder {} cannot be read, so it is not known what is in it: {}.", folder,
                               in_words(e.code())));
        }
        out_.interrupted |= progress_.stopped();
        for (const auto& f : folders) {
            if (!out_.interrupted) walk(f, files);
        }
    }

    /// Of what a chain of links ends at, as they were exported; systems follow no longer one
    /// (path_resolution(7)).
    std::optional<struct stat> final_status(std::string path) const {
        constexpr int most_links = 40;
        for (int i = 0; i < most_links; ++i) {
            const auto next = tags_.links.find(path);
            if (next == tags_.links.end()) return bag_.status(path);
            path = next->second;
        }
        return std::nullopt;
    }

    void count(const Finding& f) {
        out_.changed += f.state == State::changed;
        out_.missing += f.state == State::missing;
        out_.unreadable += f.state == State::unreadable;
        if (f.state != State::as_written) differ(f.sentence);
    }
    void differ(std::string sentence) { out_.differences.push_back(std::move(sentence)); }

    Folder bag_;
    Progress& progress_;
    BagTags tags_;
    Verification out_;
    std::mutex mutex_;
    PayloadOxum payload_;  ///< what there is
    std::optional<UnfinishedRound> round_;
    std::unordered_set<std::string> in_unfinished_;  ///< paths
};

}  // namespace

Verification verify_bag(const std::string& folder, Progress& progress) {
    struct stat status {};
    if (::stat(folder.c_str(), &status) != 0 && errno == ENOENT)
        throw Error(Trouble::input, fmt::format("There is no folder {}.", folder));
    try {
        return Checker(folder, progress).run();
    } catch (const std::system_error& e) {
        throw Error(Trouble::input, fmt::format("{} cannot be checked: {}.", folder, in_words(e.code())));
    }
}

}  // namespace undershelf
