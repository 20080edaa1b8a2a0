#include "file_targets.hpp"

#include <SQLiteCpp/SQLiteCpp.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <map>
#include <string>
#include <system_error>

#include "capture/capture.hpp"
#include "export/destinations.hpp"
#include "export/export.hpp"
#include "export/verify.hpp"
#include "scan/scan.hpp"
#include "scan/source_identity.hpp"
#include "source/source.hpp"
#include "support/fat_image.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf::fuzz {

namespace {

namespace fs = std::filesystem;
using Files = std::map<std::string, std::string>;

/// A small card, and what was made of it once.
class Workshop {
  public:
    Workshop() {
        test::FatImage card({.clusters = 400, .sectors_per_cluster = 1});
        card.put(0, "CUES    TXT", u"", {10, 11, 12}, test::sample_text("cues", 1400));
        card.erase(card.put(0, "FOX     TXT", u"", {20, 21}, test::sample_text("fox", 900)));
        folder.write("card.img", card.bytes());
        Progress progress;
        scan({.source_path = at("card.img"),
              .shelf_path = at("card.shelf"),
              .unreadable_list = {},
              .read = {}},
             progress);
    }
    std::string at(const std::string& name) const { return folder.at(name); }
    /// Of a folder in it, by their paths there.
    Files files_in(const std::string& name) const {
        Files out;
        for (const auto& file : fs::recursive_directory_iterator(at(name)))
            if (file.is_regular_file())
                out[file.path().lexically_relative(at(name)).string()] =
                    test::read_file(file.path().string());
        return out;
    }
    void put(const std::string& name, const Files& files) const {
        fs::remove_all(at(name));
        fs::create_directories(at(name));
        for (const auto& [path, content] : files) {
            fs::create_directories(fs::path(at(name) + "/" + path).parent_path());
            folder.write(name + "/" + path, content);
        }
    }

    test::TemporaryFolder folder;
};

/// Input, read number by number; zeros after its end.
class Numbers {
  public:
    explicit Numbers(Bytes input) : input_(input) {}
    bool more() const { return !input_.empty(); }
    std::size_t byte() {
        if (input_.empty()) return 0;
        const auto out = input_[0];
        input_ = input_.subspan(1);
        return out;
    }
    std::size_t word() {
        const auto high = byte();
        return high << 8 | byte();
    }

  private:
    Bytes input_;
};

void change(std::string& content, Numbers& numbers) {
    if (content.empty()) return;
    const auto at = numbers.word() % content.size();
    switch (numbers.byte() % 4) {
        case 0:
            content.resize(at);
            break;
        case 1:
            content.insert(at, std::string(numbers.byte() % 8, static_cast<char>(numbers.byte())));
            break;
        default:
            content[at] = static_cast<char>(numbers.byte());
    }
}

const std::string& canary() {
    static const std::string text = "nobody may write here";
    return text;
}

}  // namespace

void bag(Bytes input) {
    static const Workshop shop;
    static const Files whole = [] {
        const Shelf shelf(shop.at("card.shelf"));
        const auto source = open_source_of(shelf, "");
        Progress progress;
        export_entries(shelf, *source, {{shop.at("made")}, {}}, progress);
        return shop.files_in("made");
    }();
    Numbers numbers(input);
    auto files = whole;
    const auto way = numbers.byte();
    if (way & 1) {  // as if it had been interrupted
        const Shelf shelf(shop.at("card.shelf"));
        const auto header = journal_header(owner_of(shelf, {{shop.at("bag")}, {}}), 1);
        files[".unfinished/journal.jsonl"] = header + "\n" + files["exported.jsonl"];
        files[".unfinished/1/1.part"] = "part";
        // Of the first round, or of one after that.
        for (const auto* name :
             {"bagit.txt", "bag-info.txt", "exported.jsonl", "manifest-sha256.txt", "tagmanifest-sha256.txt"})
            if (!(way & 2)) files.erase(name);
    }
    shop.folder.write("outside", canary());
    for (int i = 0; i < 4 && numbers.more(); ++i) {
        auto it = std::next(files.begin(), static_cast<std::ptrdiff_t>(numbers.byte() % files.size()));
        change(it->second, numbers);
    }
    shop.put("bag", files);
    const auto name =
        std::next(files.begin(), static_cast<std::ptrdiff_t>(numbers.byte() % files.size()))->first;
    const auto path = shop.at("bag/" + name);
    std::error_code ec;
    switch (numbers.byte() % 8) {
        case 1:
            fs::remove(path, ec);
            fs::create_symlink(shop.at("outside"), path, ec);
            break;
        case 2:
            fs::remove(path, ec);
            ::mkfifo(path.c_str(), 0600);
            break;
        case 3: {
            const auto folder = fs::path(path).parent_path();
            if (folder != shop.at("bag")) {
                fs::remove_all(folder, ec);
                fs::create_directory_symlink(shop.folder.path(), folder, ec);
            }
            break;
        }
        default:
            break;
    }
    Progress progress;
    try {
        const auto said = verify_bag(shop.at("bag"), progress);
        const bool sound = said.differences.empty() && said.unfinished.empty() && said.any_finished;
        if (sound && files != whole) {
            // What is no part of any checksum may differ: but then nothing that is may.
            for (const auto& [file, content] : whole) {
                if (file.starts_with("data/") && files[file] != content) std::abort();
            }
        }
    } catch (const Error&) {
        // Said in a sentence.
    }
    try {
        const Shelf shelf(shop.at("card.shelf"));
        const auto source = open_source_of(shelf, "");
        export_entries(shelf, *source, {{shop.at("bag")}, {}}, progress);
    } catch (const Error&) {
        // Refused.
    }
    if (test::read_file(shop.at("outside")) != canary()) std::abort();
}

void shelf(Bytes input) {
    static const Workshop shop;
    static const std::string whole = test::read_file(shop.at("card.shelf"));
    static const char* const columns[] = {
        "entries.origin",   "entries.kind",       "entries.grade",   "entries.size",
        "entries.chance",   "entries.modified",   "entries.zones",   "entries.layout",
        "entries.checked",  "entries.holds_to",   "entries.folder",  "entries.volume",
        "entries.evidence", "entries.name",       "contents.pieces", "contents.claims",
        "volumes.offset",   "volumes.size",       "volumes.number",  "source.size",
        "source.path",      "source.sector_size", "scans.state",     "source_samples.length"};
    Numbers numbers(input);
    auto bytes = whole;
    const auto path = shop.at("changed.shelf");
    const bool rows = numbers.byte() & 1;
    if (!rows) {
        for (int i = 0; i < 8 && numbers.more(); ++i)
            bytes[(numbers.word() << 8 | numbers.byte()) % bytes.size()] = static_cast<char>(numbers.byte());
    }
    for (const auto* suffix : {"", "-wal", "-shm", "-journal"}) fs::remove(path + suffix);
    shop.folder.write("changed.shelf", bytes);
    if (rows) {
        SQLite::Database db(path, SQLite::OPEN_READWRITE);
        for (int i = 0; i < 4 && numbers.more(); ++i) {
            const std::string column = columns[numbers.byte() % std::size(columns)];
            const auto dot = column.find('.');
            SQLite::Statement set(
                db, "UPDATE OR IGNORE " + column.substr(0, dot) + " SET " + column.substr(dot + 1) + " = ?");
            std::string blob;
            for (auto n = numbers.byte() % 24; n > 0; --n) blob += static_cast<char>(numbers.byte());
            switch (numbers.byte() % 3) {
                case 0:
                    set.bind(1, static_cast<std::int64_t>((numbers.word() << 48) + numbers.word()));
                    break;
                case 1:
                    set.bind(1, blob.data(), static_cast<int>(blob.size()));
                    break;
                default:
                    set.bind(1, blob);
            }
            try {
                set.exec();
            } catch (const SQLite::Exception&) {
                // Against a condition of the table.
            }
        }
    }
    try {
        const Shelf shelf(path);
        shelf.source();
        shelf.volumes();
        shelf.scans();
        shelf.diagnostics();
        shelf.unreadable();
        for (const auto by : {Shelf::TallyBy::origin, Shelf::TallyBy::kind, Shelf::TallyBy::volume})
            shelf.tally(by);
        read_samples(shelf.database());
        shelf.for_each({}, {}, [&](const ShelfEntry& e) {
            shelf.pieces(e.id);
            shelf.claims(e.id);
            shelf.evidence(e.id);
            if (e.modified && iso8601(*e.modified).empty()) std::abort();
            return true;
        });
        Progress progress;
        const auto source = open_source_of(shelf, shop.at("card.img"));
        fs::remove_all(shop.at("out"));
        export_entries(shelf, *source, {{shop.at("out")}, {}}, progress);
    } catch (const Error&) {
        // Said in a sentence.
    } catch (const SQLite::Exception&) {
        // A page of it makes no sense.
    } catch (const std::system_error&) {
        // Its source is nowhere.
    }
}

void captured(Bytes input) {
    static const Workshop shop;
    static const std::string drive = test::read_file(shop.at("card.img"));
    static const Files whole = [] {
        fs::create_directories(shop.at("made"));
        CaptureOptions options;
        options.source_path = shop.at("card.img");
        options.image_path = shop.at("made/copy.img");
        options.ranges = {{0, drive.size() / 2}};
        Progress progress;
        capture(options, progress);
        return shop.files_in("made");
    }();
    Numbers numbers(input);
    auto files = whole;
    for (int i = 0; i < 6 && numbers.more(); ++i)
        change(std::next(files.begin(), static_cast<std::ptrdiff_t>(numbers.byte() % files.size()))->second,
               numbers);
    shop.put("copy", files);
    Progress progress;
    try {
        const auto source = open_source(shop.at("copy/copy.img"));
        source->read_vector({0, std::min<std::uint64_t>(source->size(), 1 << 20)});
    } catch (const Error&) {
        // Said in a sentence.
    }
    try {
        CaptureOptions options;
        options.source_path = shop.at("card.img");
        options.image_path = shop.at("copy/copy.img");
        options.hash = numbers.byte() & 1;
        capture(options, progress);
    } catch (const Error&) {
        // Refused.
    }
    if (test::read_file(shop.at("card.img")) != drive) std::abort();
}

}  // namespace undershelf::fuzz
