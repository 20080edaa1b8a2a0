#include "ntfs/reader.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include "base/text.hpp"

namespace undershelf::ntfs {

namespace {
/// Sequence numbers skip 0 when they wrap.
std::uint16_t next_sequence(std::uint16_t s) {
    return s == 0xFFFF ? 1 : static_cast<std::uint16_t>(s + 1);
}
}  // namespace

std::uint64_t name_print(std::uint64_t folder, const Name& name) {
    const auto text = std::hash<std::u16string>()(name.name);
    const auto time = name.created ? static_cast<std::uint64_t>(name.created->ticks) : 0;
    return text ^ (folder * 0x9E3779B97F4A7C15ull) ^ (time * 0xBF58476D1CE4E5B9ull);
}

Reader::Reader(const Source& source, const Volume& volume, const Geometry& geometry)
    : source_(source),
      volume_(volume),
      geometry_(geometry),
      mft_(source, volume.offset, geometry),
      taken_(std::min(geometry.clusters, source.size() / geometry.cluster_size + 1)) {}

void Reader::read(EntrySink& sink, Progress& progress) {
    progress.stage("reading file records");
    if (mft_.records() == 0) {
        sink.diagnostic(
            fmt::format("The $MFT of the NTFS volume at offset {} can be read neither where the boot sector "
                        "says nor by its mirror.",
                        volume_.offset));
        return;
    }
    if (mft_.from_mirror())
        sink.diagnostic("Record 0 of the $MFT is damaged; its run list was taken from $MFTMirr.");
    glances_ = mft_.glance(progress);
    read_journals(sink, progress);
    progress.stage("reading file records");
    for (std::uint64_t n = 0; n < glances_.size() && !progress.stopped(); ++n) {
        if (glances_[n].is_record && glances_[n].is_base) read_record(n, sink);
        if (n % 1024 == 0) progress.at(glances_.size() + n, 2 * glances_.size());
    }
    report_unowned(sink);
}

Reader::Parent Reader::parent_of(const Reference& folder) const {
    if (folder.record == MFT_REC_ROOT) return {root_key, true};
    if (is_known(folder) && glances_[folder.record].is_dir) return {{folder.record, 0}, true};
    return {life_key(folder), false};
}

bool Reader::is_known(const Reference& file) const {
    if (file.record >= glances_.size() || !glances_[file.record].is_record) return false;
    const auto& g = glances_[file.record];
    // Some drivers raise the number when a record is freed, others when it is used again.
    return g.sequence == file.sequence || (!g.in_use && g.sequence == next_sequence(file.sequence));
}

FileInfo Reader::file_of(std::uint64_t number) const {
    return read_file(source_, volume_.offset, geometry_, mft_.get(number), number,
                     [this](std::uint64_t n) { return mft_.get(n); });
}

bool Reader::is_system(std::uint64_t number, const Name& name) {
    const bool system = number < MFT_REC_FREE || name.parent_record == MFT_REC_EXTEND ||
                        system_folders_.count(name.parent_record);
    if (system && number != MFT_REC_ROOT && number < glances_.size() && glances_[number].is_dir)
        system_folders_.insert(number);
    return system;
}

void Reader::read_record(std::uint64_t number, EntrySink& sink) {
    if (number == MFT_REC_ROOT) {
        for (const auto& r : file_of(number).index_runs) {
            if (!r.sparse)
                sink.in_use(
                    {volume_.offset + r.lcn * geometry_.cluster_size, r.count * geometry_.cluster_size});
        }
        return;
    }
    const auto info = file_of(number);
    std::set<std::pair<std::uint64_t, std::u16string>> told;
    const bool only_dos = std::all_of(info.names.begin(), info.names.end(),
                                      [](const Name& n) { return n.type == FILE_NAME_DOS; });
    for (const auto& name : info.names) {
        // DOS names are second names of the same path.
        if (name.type == FILE_NAME_DOS && !only_dos) continue;
        if (told.insert({name.parent_record, name.name}).second) emit(info, number, name, sink);
    }
}

void Reader::describe(Entry& e, const FileInfo& info, std::uint64_t number) const {
    e.created = info.created;
    e.modified = info.modified;
    e.accessed = info.accessed;
    e.attributes = info.attributes;
    if (glances_[number].torn) e.evidence.push_back({Fact::torn_record, 0, 0, {}});
    if (!info.reparse.empty())
        e.evidence.push_back({Fact::reparse_point, 0, 0, "It is a reparse point: " + info.reparse + "."});
}

void Reader::emit(const FileInfo& info, std::uint64_t number, const Name& name, EntrySink& sink) {
    Entry e;
    e.is_dir = info.flags & RECORD_FLAG_DIR;
    e.key = {number, e.is_dir ? 0u : 1u};
    const auto parent = parent_of({name.parent_record, name.parent_sequence});
    e.parent = parent.key;
    e.origin = info.flags & RECORD_FLAG_IN_USE ? Origin::live : Origin::deleted;
    e.name = utf8_from_utf16(name.name);
    e.system = is_system(number, name);
    describe(e, info, number);
    if (!e.modified) e.modified = name.modified;
    if (!e.created) e.created = name.created;
    names_told_.push_back(name_print(name.parent_record, name));
    recall(e, number, info);
    if (!parent.good && e.created) {
        const auto [it, fresh] = stale_folders_.emplace(parent.key, e.created->ticks);
        if (!fresh) it->second = std::min(it->second, e.created->ticks);
    }
    if (!parent.good)
        e.evidence.push_back(
            {Fact::stale_reference, name.parent_record, 0,
             "The record of its folder has been used again; the folder's name stands elsewhere, if at all."});
    const Stream* main = nullptr;
    for (const auto& s : info.streams) {
        if (s.name.empty()) main = &s;
    }
    for (const auto& s : info.streams) {
        // The bad-cluster file's stream is one hole as long as the volume.
        if (!s.name.empty() && !(e.system && s.name == u"$Bad")) emit_stream(e, s, sink);
    }
    if (e.is_dir) {
        e.layout = Layout::known;
        for (const auto& r : info.index_runs) {
            if (!r.sparse)
                e.claims.push_back(
                    {volume_.offset + r.lcn * geometry_.cluster_size, r.count * geometry_.cluster_size});
        }
        if (e.origin == Origin::live) claim(e.claims);
        sink.entry(std::move(e));
        return;
    }
    Stream none;
    none.broken = true;
    emit_stream(e, main ? *main : none, sink);
}

void Reader::emit_stream(const Entry& file, const Stream& s, EntrySink& sink) {
    Entry e = file;
    e.is_dir = false;
    e.key.b = 1;
    e.stream = utf8_from_utf16(s.name);
    e.size = s.size;
    const bool nothing = s.broken && s.runs.empty() && s.resident;
    if (!nothing) {
        lay_out(s, geometry_, volume_.offset, e.pieces, e.claims);
        e.layout = Layout::known;
        if (!s.resident) e.evidence.push_back({Fact::extents_known, s.runs.size(), 0, {}});
    } else if (file.evidence.empty() || !file.is_dir) {
        e.evidence.push_back({Fact::no_start, 0, 0, {}});
    }
    if (s.broken && !nothing)
        e.evidence.push_back({Fact::bad_metadata, 0, 0, "a part of its run list is lost"});
    if (s.flags & ATTR_FLAG_COMPRESSED) e.evidence.push_back({Fact::compressed, 0, 0, "LZNT1"});
    if (s.flags & ATTR_FLAG_ENCRYPTED) e.evidence.push_back({Fact::encrypted, 0, 0, {}});
    if (e.origin == Origin::live) claim(e.claims);
    sink.entry(std::move(e));
}

void Reader::claim(const std::vector<ByteRange>& ranges) {
    for (const auto& r : ranges) {
        auto c = (r.offset - volume_.offset) / geometry_.cluster_size;
        for (const auto end = c + r.length / geometry_.cluster_size; c < end && c < taken_.size(); ++c)
            taken_[c] = true;
    }
}

/// Clusters that $Bitmap has in use and no live file does.
void Reader::report_unowned(EntrySink& sink) {
    if (MFT_REC_BITMAP >= glances_.size()) return;
    const auto info = file_of(MFT_REC_BITMAP);
    std::uint64_t cluster = 0;
    ByteRange open;
    const auto close = [&] {
        if (!open.empty()) sink.in_use(open);
        open = {};
    };
    for (const auto& s : info.streams) {
        if (!s.name.empty()) continue;
        for (const auto& run : s.runs) {
            for (std::uint64_t i = 0; i < run.count && cluster < taken_.size(); ++i) {
                const auto bits =
                    run.sparse ? ByteVector(geometry_.cluster_size)
                               : source_.read_vector({volume_.offset + (run.lcn + i) * geometry_.cluster_size,
                                                      geometry_.cluster_size});
                for (std::size_t b = 0; b < bits.size() * 8 && cluster < taken_.size(); ++b, ++cluster) {
                    if (!(bits[b / 8] >> b % 8 & 1) || taken_[cluster]) {
                        close();
                        continue;
                    }
                    if (open.empty()) open.offset = volume_.offset + cluster * geometry_.cluster_size;
                    open.length += geometry_.cluster_size;
                }
            }
        }
    }
    close();
}

void find_traces(const SweepBuffer& buffer, TraceSink& sink) {
    for (std::size_t at = (512 - buffer.offset % 512) % 512;
         at < buffer.owned && at + 48 <= buffer.bytes.size(); at += 512) {
        const auto* p = buffer.bytes.data() + at;
        if (std::memcmp(p, "FILE", 4) == 0) {
            const auto number = load<little_uint32_buf_t>(buffer.bytes, at + 44)->value();
            sink.trace(
                {record_trace, buffer.offset + at, number, load<FileRecord>(buffer.bytes, at)->seq.value()});
        } else if (std::memcmp(p, "INDX", 4) == 0) {
            sink.trace({index_trace, buffer.offset + at,
                        load<little_uint64_buf_t>(buffer.bytes, at + 16)->value(), 0});
        }
    }
}

}  // namespace undershelf::ntfs
