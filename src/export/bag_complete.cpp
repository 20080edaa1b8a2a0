// How a bag is finished: its links, its manifest and its tag files.

#include "base/sha256.hpp"
#include "base/slash_path.hpp"
#include "base/timestamp.hpp"
#include "export/bag.hpp"
#include "export/bag_files.hpp"

namespace undershelf {

using namespace bag_file;

/// All or none: a link that leads through one that stayed a text file would not be what its line says. One
/// that cannot be put in its place after that ends the export, and is made when it goes on.
bool Bag::make_links(const std::vector<ExportedEntry>& links) {
    wait();
    const auto part = [](const ExportedEntry& e) { return part_path(e.id); };
    try {
        for (const auto& e : links) {
            if (folder_.status(part(e))) folder_.remove(part(e));
            folder_.make_link(relative_path(folder_in(*e.path_in_bag), e.leads_to), part(e));
        }
    } catch (const std::system_error&) {
        return false;  // the parts go with the other work
    }
    try {
        for (const auto& e : links) folder_.rename(part(e), *e.path_in_bag);
    } catch (const std::system_error& error) {
        throw cannot_write(folder_.path(), error.code());
    }
    for (const auto& e : links) made_links_.insert(e.id);
    sync();
    append(links, true);
    return true;
}

/// Writes tag files beside their places, has them on the drive all at once, then puts them there: our own may
/// be older than what was added since.
void Bag::write_tags(const std::vector<std::pair<const char*, const std::string*>>& tags) const {
    const auto place = [](const char* name) { return work + "/" + name; };
    for (const auto& [name, content] : tags) {
        OutputFile file(folder_, place(name));
        file.write(bytes_of(*content));
        file.close();
        file.keep();
    }
    sync();
    for (const auto& [name, content] : tags) folder_.rename(place(name), name);
}

/// The journal goes first: without it the bag is finished, whatever else cannot be removed (a file system
/// over a network or in user space keeps what somebody has open).
void Bag::take_work_away() const {
    if (folder_.is_file(journal)) folder_.remove(journal);
    folder_.remove_all(work);
}

void Bag::complete(const std::string& description) {
    commit();
    wait();
    try {
        put_tags(description);
        journal_.reset();
        take_work_away();
        sync();
    } catch (const std::system_error& e) {
        throw cannot_write(folder_.path(), e.code());
    }
}

void Bag::put_tags(const std::string& description) const {
    std::string manifest, exported;
    std::uint64_t bytes = 0, files = 0;
    each_line(folder_, journal, [&](const std::string& line) {
        const auto e = gist_of(line);
        // Of an entry that could not be given its name the second line counts.
        if (!e || (e->path_in_bag && nameless_.count(e->id))) return;
        if (e->leads_to.empty() && made_links_.count(e->id)) return;
        exported += line + "\n";
        // A link to a folder is no file.
        if (!e->path_in_bag || e->sha256.empty()) return;
        manifest += e->sha256 + "  " + *e->path_in_bag + "\n";
        bytes += e->size;
        ++files;
    });
    const auto today = iso8601(now_utc()).substr(0, 10);
    const std::string bagit = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n";
    const auto info = fmt::format(
        "Bagging-Date: {}\nBag-Software-Agent: undershelf\nPayload-Oxum: {}.{}\nExternal-Description: "
        "{}\n{}{}\n",
        today, bytes, files, description, job_label, job_);
    std::string tags;
    for (const auto& [name, content] : {std::pair{"bag-info.txt", &info},
                                        {"exported.jsonl", &exported},
                                        {"manifest-sha256.txt", &manifest}}) {
        tags += sha256_of(bytes_of(*content)) + "  " + name + "\n";
    }
    tags += sha256_of(bytes_of(bagit)) + "  bagit.txt\n";
    write_tags({{"manifest-sha256.txt", &manifest},
                {"exported.jsonl", &exported},
                {"bag-info.txt", &info},
                {"tagmanifest-sha256.txt", &tags},
                {"bagit.txt", &bagit}});
}

}  // namespace undershelf
