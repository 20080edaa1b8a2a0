#include "ntfs/file_info.hpp"

#include <algorithm>
#include <set>

#include "base/text.hpp"
#include "ntfs/mention.hpp"

namespace undershelf::ntfs {

namespace {

constexpr std::uint64_t most_list_bytes = 1 << 20;
constexpr std::size_t most_extensions = 4096;

/// Bytes of a non-resident attribute that is small, such as an attribute list.
ByteVector read_runs(const Source& source, std::uint64_t volume, const Geometry& g,
                     const std::vector<Run>& runs, std::uint64_t size) {
    ByteVector out;
    for (const auto& run : runs) {
        if (out.size() >= size) break;
        const auto length = std::min<std::uint64_t>(run.count * g.cluster_size, size - out.size());
        if (run.sparse) {
            out.resize(out.size() + length);
        } else {
            const auto part = source.read_vector({volume + run.lcn * g.cluster_size, length});
            out.insert(out.end(), part.begin(), part.end());
        }
    }
    return out;
}

class Gatherer {
  public:
    Gatherer(const Source& source, std::uint64_t volume, const Geometry& g)
        : source_(source), volume_(volume), g_(g) {}

    FileInfo run(const Record& base, std::uint64_t number, const RecordSource& record) {
        const auto head = load<FileRecord>(base.bytes);
        if (!head) return {};
        out_.flags = head->flags.value();
        // A live file that lies after the end is broken; a lost one may be from when the volume was larger.
        clusters_ = out_.flags & RECORD_FLAG_IN_USE ? g_.clusters : std::max(g_.clusters, g_.source_clusters);
        take(base);
        const auto list = extensions(base);
        std::set<std::uint64_t> seen;
        if (!list.empty()) seen.insert(number);
        for (const auto extension : list) {
            if (seen.size() > most_extensions || !seen.insert(extension).second) continue;
            const auto more = record(extension);
            const auto more_head = load<FileRecord>(more.bytes);
            // Compared by the number alone: in a deleted file the references keep the sequence from before.
            if (more_head && (more_head->parent_ref.value() & 0xFFFFFFFFFFFF) == number) take(more);
        }
        finish();
        return std::move(out_);
    }

  private:
    /// Records that the attribute list names, in its order.
    std::vector<std::uint64_t> extensions(const Record& base) const {
        std::vector<std::uint64_t> out;
        for (const auto& a : attributes_of(base.bytes)) {
            if (a.type != ATTR_LIST) continue;
            ByteVector list;
            if (a.resident) {
                const auto value = a.value();
                list.assign(value.begin(), value.end());
            } else if (const auto runs = runs_of(a, g_, clusters_)) {
                const auto head = load<NonResidentHead>(a.bytes);
                list = read_runs(source_, volume_, g_, *runs,
                                 std::min(head->data_size.value(), most_list_bytes));
            }
            for (std::size_t at = 0; const auto e = load<ListEntry>(list, at);) {
                out.push_back(e->ref.value() & 0xFFFFFFFFFFFF);
                if (e->size.value() < sizeof(ListEntry)) break;
                at += e->size.value();
            }
        }
        return out;
    }

    void take(const Record& record) {
        for (const auto& a : attributes_of(record.bytes)) {
            switch (a.type) {
                case ATTR_STD:
                    take_times(a);
                    break;
                case ATTR_NAME:
                    if (const auto name = parse_name(a.value())) out_.names.push_back(*name);
                    break;
                case ATTR_DATA:
                    take_data(a, record);
                    break;
                case ATTR_ALLOC:
                    if (const auto runs = runs_of(a, g_, clusters_); runs && a.name() == u"$I30")
                        out_.index_runs.insert(out_.index_runs.end(), runs->begin(), runs->end());
                    break;
                case ATTR_REPARSE:
                    take_reparse_point(a, record);
                    break;
                default:
                    break;
            }
        }
        keep_removed_names(record);
    }

    /// Some drivers take the attributes out of an extension record before they free it: then a name is left
    /// after the record's used part, without the head it had.
    void keep_removed_names(const Record& record) {
        const auto head = load<FileRecord>(record.bytes);
        if (!out_.names.empty() || !head || head->flags.value() & RECORD_FLAG_IN_USE) return;
        const auto from = (std::uint64_t{head->used.value()} + 7) / 8 * 8;
        for (auto at = from; at + sizeof(FileName) <= record.bytes.size(); at += 8) {
            const auto value = record.bytes.subspan(static_cast<std::size_t>(at));
            if (!looks_like_name(value)) continue;
            if (auto name = parse_name(value)) removed_.push_back(std::move(*name));
        }
    }

    /// Those that were given when the file was made are its own.
    void take_removed_names() {
        if (!out_.names.empty() || !out_.created) return;
        for (auto& name : removed_) {
            const bool its = name.created && name.created->ticks == out_.created->ticks;
            if (its) out_.names.push_back(std::move(name));
        }
        out_.names_taken_out = !out_.names.empty();
    }

    void take_times(const Attribute& a) {
        const auto info = load<StandardInformation>(a.value());
        if (!info) return;
        out_.created = time_from_filetime(info->cr_time.value());
        out_.modified = time_from_filetime(info->m_time.value());
        out_.accessed = time_from_filetime(info->a_time.value());
        out_.attributes = info->fa.value() & 0x27;
    }

    void take_reparse_point(const Attribute& a, const Record& record) {
        if (a.resident) {
            out_.reparse = parse_reparse_point(a.value());
            out_.reparse_at =
                record.offset + static_cast<std::uint64_t>(a.value().data() - record.bytes.data());
            return;
        }
        const auto head = load<NonResidentHead>(a.bytes);
        const auto runs = runs_of(a, g_, clusters_);
        out_.reparse.emplace();
        if (!head || !runs || runs->empty() || runs->front().sparse) return;
        const auto size = std::min(head->data_size.value(), most_reparse_bytes);
        out_.reparse = parse_reparse_point(read_runs(source_, volume_, g_, *runs, size));
        out_.reparse_at = volume_ + runs->front().lcn * g_.cluster_size;
    }

    /// A part of a run list that came before the parts it goes on from.
    struct Part {
        std::size_t stream;
        std::uint64_t first_vcn;
        std::optional<std::vector<Run>> runs;
    };

    std::size_t stream_of(const Attribute& a) {
        const auto name = a.name();
        std::size_t i = 0;
        while (i < out_.streams.size() && out_.streams[i].name != name) ++i;
        if (i == out_.streams.size()) out_.streams.emplace_back().name = name;
        return i;
    }

    void take_data(const Attribute& a, const Record& record) {
        const auto index = stream_of(a);
        auto& stream = out_.streams[index];
        stream.flags |= load<AttributeHead>(a.bytes)->flags.value();
        if (a.resident) {
            const auto value = a.value();
            stream.bytes.assign(value.begin(), value.end());
            stream.bytes_at = record.offset + static_cast<std::uint64_t>(value.data() - record.bytes.data());
            stream.size = stream.valid_size = value.size();
            return;
        }
        const auto head = load<NonResidentHead>(a.bytes);
        if (!head) {
            stream.broken = true;
            return;
        }
        stream.resident = false;
        // Sizes are in the first part alone.
        if (head->svcn.value() == 0) {
            stream.size = head->data_size.value();
            stream.valid_size = head->valid_size.value();
            stream.compression_unit = head->c_unit;
        }
        Part part{index, head->svcn.value(), runs_of(a, g_, clusters_)};
        if (!join(stream, part)) late_.push_back(std::move(part));
    }

    /// Puts a part after the runs it goes on from; false when these are not there yet.
    bool join(Stream& stream, Part& part) const {
        if (!part.runs || part.first_vcn != stream.next_vcn) return false;
        const auto clusters = cluster_total(*part.runs);
        if (clusters > most_clusters(g_) - stream.next_vcn) return false;
        stream.next_vcn += clusters;
        if (stream.runs.empty()) {
            stream.runs = std::move(*part.runs);
        } else {
            stream.runs.insert(stream.runs.end(), part.runs->begin(), part.runs->end());
        }
        return true;
    }

    /// Joins the parts that came out of order; after one that is missing the rest is broken.
    void finish() {
        take_removed_names();
        std::stable_sort(late_.begin(), late_.end(),
                         [](const Part& a, const Part& b) { return a.first_vcn < b.first_vcn; });
        for (auto& part : late_) {
            auto& stream = out_.streams[part.stream];
            if (stream.broken || !join(stream, part)) stream.broken = true;
        }
    }

    const Source& source_;
    std::uint64_t volume_;
    const Geometry& g_;
    std::uint64_t clusters_ = 0;  ///< in which its runs may lie
    FileInfo out_;
    std::vector<Part> late_;
    std::vector<Name> removed_;  ///< from its records
};

/// Appends pieces one after the other, and joins those that go on where the last one ends.
class PieceList {
  public:
    PieceList(std::vector<Piece>& out, std::uint64_t size) : out_(out), left_(size) {}

    Piece& add(PieceKind kind, std::uint64_t length, std::uint64_t source = 0) {
        length = std::min(length, left_);
        const auto at = at_;
        at_ += length;
        left_ -= length;
        if (!out_.empty() && out_.back().kind == kind && goes_on(out_.back(), source)) {
            out_.back().length += length;
            return out_.back();
        }
        Piece p;
        p.kind = kind;
        p.offset = at;
        p.length = length;
        p.source = source;
        out_.push_back(std::move(p));
        return out_.back();
    }
    std::uint64_t left() const { return left_; }
    std::uint64_t at() const { return at_; }

  private:
    static bool goes_on(const Piece& last, std::uint64_t source) {
        return last.kind == PieceKind::zeros ||
               (last.kind == PieceKind::stored && last.source + last.length == source);
    }

    std::vector<Piece>& out_;
    std::uint64_t at_ = 0, left_;
};

void lay_out_plain(const Stream& s, const Geometry& g, std::uint64_t volume, PieceList& list) {
    for (const auto& run : s.runs) {
        if (list.left() == 0) return;
        std::uint64_t length = run.count * g.cluster_size;
        if (run.sparse) {
            list.add(PieceKind::zeros, length);
            continue;
        }
        // After the valid length the clusters hold anything, and read as zeros.
        const auto valid = s.valid_size > list.at() ? std::min(length, s.valid_size - list.at()) : 0;
        if (valid) list.add(PieceKind::stored, valid, volume + run.lcn * g.cluster_size);
        if (length > valid && list.left()) list.add(PieceKind::zeros, length - valid);
    }
}

/// Units of 2^compression_unit clusters: stored when all of them have a place, sparse when none has, packed
/// otherwise. Whole units of one run are laid out at once: a sparse run may have more of them than there are
/// bytes on the volume.
class CompressedLayout {
  public:
    CompressedLayout(const Stream& s, const Geometry& g, std::uint64_t volume, PieceList& list)
        : runs_(s.runs), g_(g), volume_(volume), unit_(1ull << s.compression_unit), list_(list) {}

    void run() {
        while (list_.left() && index_ < runs_.size()) {
            const auto whole = (runs_[index_].count - used_) / unit_ * unit_;
            if (whole) {
                const auto sparse = runs_[index_].sparse;
                list_.add(sparse ? PieceKind::zeros : PieceKind::stored, whole * g_.cluster_size,
                          sparse ? 0 : place());
                step(whole);
            } else {
                one_unit();
            }
        }
    }

  private:
    std::uint64_t place() const { return volume_ + (runs_[index_].lcn + used_) * g_.cluster_size; }
    void step(std::uint64_t clusters) {
        used_ += clusters;
        if (used_ < runs_[index_].count) return;
        ++index_;
        used_ = 0;
    }

    /// A unit that is put together from several runs.
    void one_unit() {
        std::vector<ByteRange> input;
        std::uint64_t wanted = unit_, stored = 0;
        while (wanted && index_ < runs_.size()) {
            const auto n = std::min(wanted, runs_[index_].count - used_);
            if (!runs_[index_].sparse) {
                input.push_back({place(), n * g_.cluster_size});
                stored += n;
            }
            wanted -= n;
            step(n);
        }
        if (stored == 0) {
            list_.add(PieceKind::zeros, unit_ * g_.cluster_size);
        } else if (stored == unit_) {
            for (const auto& r : input) {
                if (list_.left()) list_.add(PieceKind::stored, r.length, r.offset);
            }
        } else {
            auto& p = list_.add(PieceKind::packed, unit_ * g_.cluster_size);
            p.codec = Codec::lznt1;
            p.input = std::move(input);
        }
    }

    const std::vector<Run>& runs_;
    const Geometry& g_;
    std::uint64_t volume_, unit_;
    PieceList& list_;
    std::size_t index_ = 0;
    std::uint64_t used_ = 0;  ///< clusters of runs_[index_] that earlier units took
};

}  // namespace

std::optional<Name> parse_name(Bytes value) {
    const auto f = load<FileName>(value);
    if (!f || f->name_len == 0 || value.size() < sizeof(FileName) + f->name_len * 2u || f->type > 3)
        return std::nullopt;
    Name out;
    out.parent_record = f->home.value() & 0xFFFFFFFFFFFF;
    out.parent_sequence = static_cast<std::uint16_t>(f->home.value() >> 48);
    out.name = utf16_units(value.subspan(sizeof(FileName), f->name_len * 2u));
    out.type = f->type;
    out.created = time_from_filetime(f->cr_time.value());
    out.modified = time_from_filetime(f->m_time.value());
    out.changed = time_from_filetime(f->c_time.value());
    return out;
}

FileInfo read_file(const Source& source, std::uint64_t volume, const Geometry& g, const Record& base,
                   std::uint64_t number, const RecordSource& record) {
    return Gatherer(source, volume, g).run(base, number, record);
}

void lay_out(const Stream& s, const Geometry& g, std::uint64_t volume, std::vector<Piece>& pieces,
             std::vector<ByteRange>& claims) {
    PieceList list(pieces, s.size);
    if (s.resident) {
        if (s.size) list.add(PieceKind::inlined, s.size, s.bytes_at).bytes = s.bytes;
        return;
    }
    for (const auto& run : s.runs) {
        if (!run.sparse) claims.push_back({volume + run.lcn * g.cluster_size, run.count * g.cluster_size});
    }
    if ((s.flags & ATTR_FLAG_COMPRESSED) && s.compression_unit > 0 && s.compression_unit <= 8) {
        CompressedLayout(s, g, volume, list).run();
    } else {
        lay_out_plain(s, g, volume, list);
    }
    if (list.left()) list.add(PieceKind::missing, list.left());
}

}  // namespace undershelf::ntfs
