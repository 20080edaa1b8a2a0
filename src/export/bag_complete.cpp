// How a bag is finished: its links, its manifest and its tag files.

#include <algorithm>
#include <string_view>

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

namespace {

constexpr const char* declaration =
    "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n";  // RFC 8493, section 2.1.1

/// One of them, on its way; may be larger than anybody wants in memory.
class TagFile {
  public:
    TagFile(const Folder& folder, const char* name) : name_(name), file_(folder, tags_in_work + "/" + name) {}

    void line(std::string_view text) {
        buffer_ += text;
        buffer_ += '\n';
        constexpr std::size_t enough = 1 << 20;
        if (buffer_.size() >= enough) flush();
    }
    void text(std::string_view text) { buffer_ += text; }
    /// Its line of the tag manifest.
    std::string close() {
        flush();
        file_.close();
        file_.keep();
        return hash_.hex() + "  " + name_;
    }

  private:
    void flush() {
        hash_.add(bytes_of(buffer_));
        file_.write(bytes_of(buffer_));
        buffer_.clear();
    }

    std::string name_;
    OutputFile file_;
    Sha256 hash_;
    std::string buffer_;
};

}  // namespace

/// What goes into the tag files of all rounds.
struct Bag::Tags {
    TagFile manifest, exported;
    PayloadOxum oxum;                        ///< of all rounds
    BagRound round;                          ///< this one
    std::unordered_set<std::string> places;  ///< in the bag, that have a file of this round
    std::unordered_set<std::int64_t> ids;    ///< entries that have a line of this round
};

/// The lines that count of this round.
void Bag::each_of_this_round(const BagPast::Visit& visit) const {
    each_line(folder_, journal, [&](const std::string& line) {
        auto e = gist_of(line);
        // Of an entry that could not be given its name the second line counts.
        if (!e || (e->path_in_bag && nameless_.count(e->id))) return;
        if (e->leads_to.empty() && made_links_.count(e->id)) return;
        visit(line, std::move(*e));
    });
}

/// A line goes where this round has one for the same file, or where nothing was written and this round has
/// one for the entry. What the manifest says stays as it is written there.
void Bag::add_finished_rounds(Tags& to) const {
    if (past_->info().rounds.empty()) return;
    each_of_this_round([&](const std::string&, LineGist&& e) {
        to.ids.insert(e.id);
        if (e.path_in_bag) to.places.insert(std::move(*e.path_in_bag));
    });
    past_->each_finished([&](const std::string& line, LineGist&& e) {
        const bool replaced = e.path_in_bag ? to.places.count(*e.path_in_bag) > 0 : to.ids.count(e.id) > 0;
        if (replaced) return;
        to.exported.line(line);
        if (!e.path_in_bag || e.sha256.empty()) return;
        to.oxum.bytes += e.size;
        ++to.oxum.files;
    });
    each_line(folder_, manifest_name, [&](const std::string& line) {
        const auto gap = line.find("  ");
        if (gap != std::string::npos && !to.places.count(line.substr(gap + 2))) to.manifest.line(line);
    });
}

void Bag::add_this_round(Tags& to) const {
    each_of_this_round([&](const std::string& line, LineGist&& e) {
        to.exported.line(line);
        // A link to a folder is no file.
        if (!e.path_in_bag || e.sha256.empty()) return;
        to.manifest.line(e.sha256 + "  " + *e.path_in_bag);
        to.round.bytes += e.size;
        ++to.round.files;
    });
    to.oxum.bytes += to.round.bytes;
    to.oxum.files += to.round.files;
}

namespace {
/// Checksums of tag files that somebody else has added.
void add_kept_tags(const Folder& folder, TagFile& to) {
    each_line(folder, tag_manifest_name, [&](const std::string& line) {
        const auto at = line.find_first_not_of(" *", std::min(line.size(), line.find(' ')));
        if (at == std::string::npos) return;
        const auto is = [&](const char* name) { return line.compare(at, std::string::npos, name) == 0; };
        if (std::none_of(std::begin(tag_files), std::end(tag_files), is)) to.line(line);
    });
}
}  // namespace

void Bag::write_tags(const std::string& description) const {
    folder_.remove_all(tags_in_work);
    folder_.make_folders(tags_in_work);
    Tags tags{{folder_, manifest_name}, {folder_, exported_name}, {}, {}, {}, {}};
    add_finished_rounds(tags);
    add_this_round(tags);
    tags.round.number = round_;
    tags.round.ended = iso8601(now_utc()).substr(0, std::string_view("2026-01-01T00:00:00").size()) + "Z";
    tags.round.job = owner_.job;
    auto info = past_->info();
    info.rounds.push_back(tags.round);
    TagFile of_tags(folder_, tag_manifest_name), info_file(folder_, info_name),
        declared(folder_, declaration_name);
    info_file.text(bag_info_text(info, tags.oxum, description));
    declared.text(declaration);
    add_kept_tags(folder_, of_tags);
    for (auto* file : {&tags.manifest, &tags.exported, &info_file, &declared}) of_tags.line(file->close());
    of_tags.close();
    sync();
    // From here on the round is finished.
    folder_.rename(tags_in_work, new_tags);
    sync();
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
        write_tags(description);
        journal_.reset();
        finish_moving();
    } catch (const std::system_error& e) {
        throw cannot_write(folder_.path(), e.code());
    }
}

void Bag::leave() {
    wait();
    journal_.reset();
    try {
        take_work_away();
    } catch (const std::system_error& e) {
        throw cannot_write(folder_.path(), e.code());
    }
}

}  // namespace undershelf
