#include "ntfs/file_table.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"
#include "ntfs/change_journal.hpp"
#include "ntfs/log_file.hpp"
#include "volume/content_stream.hpp"
#include "volume/link_target.hpp"

namespace undershelf::ntfs {

namespace {

const Stream* stream_named(const FileInfo& info, std::u16string_view name) {
    for (const auto& s : info.streams) {
        if (s.name == name) return &s;
    }
    return nullptr;
}

/// Bytes of a stream that lie after the volume's end.
std::uint64_t bytes_beyond(const Stream& s, const Geometry& g) {
    std::uint64_t clusters = 0;
    for (const auto& run : s.runs) {
        if (!run.sparse && run.lcn + run.count > g.clusters)
            clusters += run.lcn + run.count - std::max(run.lcn, g.clusters);
    }
    return clusters * g.cluster_size;
}

bool has_something(const FileInfo& info) {
    return (info.flags & RECORD_FLAG_DIR) ||
           std::any_of(info.streams.begin(), info.streams.end(), [](const Stream& s) { return s.size > 0; });
}

}  // namespace

FileTable::FileTable(const Source& source, const Volume& volume, const Geometry& geometry, Mft&& mft)
    : source_(source), volume_offset_(volume.offset), geometry_(geometry), mft_(std::move(mft)) {}

void FileTable::look(EntrySink& sink, Progress& progress) {
    progress.stage("looking at file records");
    glances_ = mft_.glance(progress);
    read_journals(sink, progress);
}

void FileTable::read_journals(EntrySink& sink, Progress& progress) {
    progress.stage("reading the journals");
    const auto take = [this](Mention&& m) {
        if (m.file.record >= MFT_REC_FREE && !m.name.empty()) past_.take(std::move(m));
    };
    RecordWindows windows;
    const auto log = file_of(MFT_REC_LOG, windows);
    if (const auto* s = stream_named(log, u"")) read_log(source_, volume_offset_, geometry_, *s, take);
    // The change journal comes second, since what it tells is dated. It has no record number of its own.
    for (std::uint64_t n = MFT_REC_FREE; n < glances_.size() && !progress.stopped(); ++n) {
        if (!glances_[n].is_record || !glances_[n].is_base || !glances_[n].is_extend) continue;
        const auto info = file_of(n, windows);
        const bool is_journal = std::any_of(info.names.begin(), info.names.end(),
                                            [](const Name& name) { return name.name == u"$UsnJrnl"; });
        const auto* s = is_journal ? stream_named(info, u"$J") : nullptr;
        if (s) read_change_journal(source_, volume_offset_, geometry_, *s, take);
    }
    if (past_.full())
        sink.diagnostic("The journals tell of more files than are kept in memory; the rest is left out.");
}

FileInfo FileTable::file_of(std::uint64_t number, RecordWindows& windows) const {
    return read_file(source_, volume_offset_, geometry_, mft_.get(number, windows.records), number,
                     [&](std::uint64_t n) { return mft_.get(n, windows.others); });
}

bool FileTable::is_known(const Reference& file) const {
    if (file.record >= glances_.size() || !glances_[file.record].is_record) return false;
    const auto& g = glances_[file.record];
    // Some drivers raise the number when a record is freed, others when it is used again.
    return g.sequence == file.sequence || (!g.in_use && g.sequence == next_sequence(file.sequence));
}

FileTable::Parent FileTable::parent_of(const Reference& folder) const {
    if (folder.record == MFT_REC_ROOT) return {root_key, true};
    if (is_known(folder) && glances_[folder.record].is_dir) return {{folder.record, 0}, true};
    return {life_key(folder), false};
}

const PastLives::Life* FileTable::life_of(std::uint64_t number) const {
    if (past_.all().empty()) return nullptr;
    const auto sequence = glances_[number].sequence;
    if (!glances_[number].in_use) {
        const auto before = static_cast<std::uint16_t>(sequence == 1 ? 0xFFFF : sequence - 1);
        if (const auto* life = past_.find({number, before})) return life;
    }
    return past_.find({number, sequence});
}

std::string FileTable::path_of(Reference folder, const std::u16string& name) const {
    // Folders are anywhere in the table: only their own records are read.
    RecordWindows windows{RecordWindow(geometry_.record_size), RecordWindow(geometry_.record_size)};
    std::string path = utf8_from_utf16(name);
    for (std::size_t depth = 0; folder.record != MFT_REC_ROOT && depth < bound::folder_depth; ++depth) {
        if (is_known(folder)) {
            const auto info = file_of(folder.record, windows);
            if (info.names.empty()) break;
            path = utf8_from_utf16(info.names.back().name) + "/" + path;
            folder = {info.names.back().parent_record, info.names.back().parent_sequence};
        } else if (const auto* life = past_.find(folder)) {
            const auto& last = life->names[life->last];
            path = utf8_from_utf16(last.name) + "/" + path;
            folder = last.folder;
        } else {
            return fmt::format("folder-{}/{}", folder.record, path);
        }
    }
    return path;
}

bool FileTable::compose(std::uint64_t number, RecordWindows& windows, std::vector<Draft>& out) const {
    const auto info = file_of(number, windows);
    if (info.names.empty()) return number < MFT_REC_FREE || !has_something(info);
    const bool only_dos = std::all_of(info.names.begin(), info.names.end(),
                                      [](const Name& n) { return n.type == FILE_NAME_DOS; });
    for (auto name = info.names.begin(); name != info.names.end(); ++name) {
        // DOS names are second names of the same path.
        if (name->type == FILE_NAME_DOS && !only_dos) continue;
        const bool told = std::any_of(info.names.begin(), name, [&](const Name& n) {
            return n.parent_record == name->parent_record && n.name == name->name &&
                   (n.type != FILE_NAME_DOS || only_dos);
        });
        if (!told) compose_name(info, number, *name, out);
    }
    return true;
}

std::vector<Draft> FileTable::compose_as(std::uint64_t number, RecordWindows& windows,
                                         const Name& name) const {
    std::vector<Draft> out;
    compose_name(file_of(number, windows), number, name, out);
    return out;
}

void FileTable::describe(Entry& e, const FileInfo& info, std::uint64_t number) const {
    e.created = info.created;
    e.modified = info.modified;
    e.accessed = info.accessed;
    e.attributes = info.attributes;
    if (info.names_taken_out) e.evidence.push_back({Fact::name_taken_out, 0, 0, {}});
    if (glances_[number].torn) e.evidence.push_back({Fact::torn_record, 0, 0, {}});
    if (info.reparse) e.evidence.push_back({Fact::reparse_point, 0, 0, "It is " + info.reparse->kind + "."});
}

/// Adds to an entry what journals know of it: the time of deletion, and the names it had before.
void FileTable::recall(Entry& e, std::uint64_t number, const FileInfo& info) const {
    const auto* life = life_of(number);
    if (!life) return;
    if (e.origin == Origin::deleted && life->deleted) {
        e.deleted = life->deleted;
        e.evidence.push_back(
            {Fact::from_journal, life->source, 0, "The change journal tells when it was deleted."});
    }
    for (const auto& known : life->names) {
        const bool has_it = std::any_of(info.names.begin(), info.names.end(), [&](const Name& n) {
            return n.name == known.name && n.parent_record == known.folder.record;
        });
        if (!has_it)
            e.evidence.push_back({Fact::old_name, life->source, 0, path_of(known.folder, known.name)});
    }
}

void FileTable::compose_name(const FileInfo& info, std::uint64_t number, const Name& name,
                             std::vector<Draft>& out) const {
    Draft d;
    auto& e = d.entry;
    e.is_dir = info.flags & RECORD_FLAG_DIR;
    e.key = {number, e.is_dir ? 0u : 1u};
    const auto parent = parent_of({name.parent_record, name.parent_sequence});
    e.parent = parent.key;
    e.origin = info.flags & RECORD_FLAG_IN_USE ? Origin::live : Origin::deleted;
    e.name = utf8_from_utf16(name.name);
    describe(e, info, number);
    if (!e.modified) e.modified = name.modified;
    if (!e.created) e.created = name.created;
    d.number = number;
    d.parent_record = name.parent_record;
    d.print = name_print(name.parent_record, name);
    d.stale_parent = !parent.good;
    recall(e, number, info);
    if (!parent.good)
        e.evidence.push_back(
            {Fact::stale_reference, name.parent_record, 0,
             "The record of its folder has been used again; the folder's name is elsewhere, if at all."});
    for (const auto& s : info.streams) {
        // The bad-cluster file's stream is one hole as long as the volume.
        if (!s.name.empty() && !(number < MFT_REC_FREE && s.name == u"$Bad")) add_stream(Draft(d), s, out);
    }
    const auto* main = stream_named(info, u"");
    if (make_link(d, info, main)) {
        out.push_back(std::move(d));
        return;
    }
    if (e.is_dir) {
        e.layout = Layout::known;
        for (const auto& r : info.index_runs) {
            if (!r.sparse)
                e.claims.push_back(
                    {volume_offset_ + r.lcn * geometry_.cluster_size, r.count * geometry_.cluster_size});
        }
        out.push_back(std::move(d));
        return;
    }
    static const Stream none = [] {
        Stream s;
        s.broken = true;
        return s;
    }();
    add_stream(std::move(d), main ? *main : none, out);
}

/// False for what is not a link.
bool FileTable::make_link(Draft& d, const FileInfo& info, const Stream* main) const {
    auto& e = d.entry;
    auto at = info.reparse_at;
    std::optional<std::string> target;
    if (info.reparse) {
        target = info.reparse->target;
    } else if (main && !e.is_dir && info.attributes & attribute::system) {
        at = main->bytes_at;
        target = stored_link(main->resident ? main->bytes : first_bytes(*main));
        if (target)
            e.evidence.push_back(
                {Fact::reparse_point, 0, 0, "It is a symbolic link, stored as a small file."});
    }
    if (!target) return false;
    e.link = recorded_target(std::move(*target), e.origin);
    e.is_dir = false;
    e.key.b = 1;
    if (main) lay_out(*main, geometry_, volume_offset_, e.pieces, e.claims);
    hold_target(e, at);
    return true;
}

/// All of a stream that is small enough to be a link.
ByteVector FileTable::first_bytes(const Stream& s) const {
    if (geometry_.clusters == 0 || s.size > most_stored_link_bytes || s.broken || s.runs.empty()) return {};
    std::vector<Piece> pieces;
    std::vector<ByteRange> claims;
    lay_out(s, geometry_, volume_offset_, pieces, claims);
    return ContentStream(source_, std::move(pieces), s.size).first(static_cast<std::size_t>(s.size));
}

void FileTable::add_stream(Draft&& draft, const Stream& s, std::vector<Draft>& out) const {
    auto& e = draft.entry;
    const bool of_folder = e.is_dir;
    e.is_dir = false;
    e.key.b = 1;
    e.stream = utf8_from_utf16(s.name);
    e.size = s.size;
    const bool placeless = geometry_.clusters == 0 && !s.resident;
    const bool nothing = placeless || (s.broken && s.runs.empty() && s.resident);
    if (!nothing) {
        lay_out(s, geometry_, volume_offset_, e.pieces, e.claims);
        e.layout = Layout::known;
        if (!s.resident) e.evidence.push_back({Fact::extents_known, s.runs.size(), 0, {}});
        if (const auto beyond = bytes_beyond(s, geometry_); beyond && e.origin == Origin::deleted)
            e.evidence.push_back({Fact::beyond_volume, beyond, 0, {}});
        if (s.broken) e.evidence.push_back({Fact::bad_metadata, 0, 0, "a part of its run list is lost"});
    } else if (!of_folder) {
        e.evidence.push_back({Fact::no_start, 0, 0, {}});
    }
    if (s.flags & ATTR_FLAG_COMPRESSED) e.evidence.push_back({Fact::compressed, 0, 0, "LZNT1"});
    if (s.flags & ATTR_FLAG_ENCRYPTED) e.evidence.push_back({Fact::encrypted, 0, 0, {}});
    out.push_back(std::move(draft));
}

}  // namespace undershelf::ntfs
