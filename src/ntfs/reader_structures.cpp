// Where the records, journals and folder indexes of a volume are: all that names and layouts are read from.

#include <algorithm>

#include "ntfs/reader.hpp"
#include "volume/ignoring_sink.hpp"

namespace undershelf::ntfs {

namespace {

constexpr std::uint64_t boot_bytes = 8192;

class Places {
  public:
    Places(const Volume& volume, const Geometry& geometry)
        : volume_(volume.offset), cluster_(geometry.cluster_size) {}

    void add(Structure& to, const std::vector<Run>& runs) const {
        for (const auto& r : runs) {
            if (!r.sparse) to.ranges.push_back({volume_ + r.lcn * cluster_, r.count * cluster_});
        }
    }
    /// The stream of this name, without what is in the record itself.
    void add(Structure& to, const FileInfo& file, std::u16string_view stream) const {
        for (const auto& s : file.streams) {
            if (s.name == stream && !s.resident) add(to, s.runs);
        }
    }

  private:
    std::uint64_t volume_, cluster_;
};

bool is_named(const FileInfo& file, std::u16string_view name) {
    return std::any_of(file.names.begin(), file.names.end(), [&](const Name& n) { return n.name == name; });
}

}  // namespace

std::vector<Structure> Reader::structures(Progress& progress) {
    Structure boot{"boot sectors", {{volume_.offset, boot_bytes}}}, records{"file records", {}},
        bitmap{"allocation bitmaps", {}}, journals{"journals", {}}, indexes{"folder indexes", {}};
    // The copy is in the last sector.
    if (volume_.size > boot_bytes) boot.ranges.push_back({volume_.offset + volume_.size - 512, 512});
    const Places places(volume_, geometry_);
    IgnoringSink sink(volume_, source_.size());
    table_.look(sink, progress);
    const auto& glances = table_.glances();
    RecordWindows windows;
    for (std::uint64_t n = 0; n < glances.size() && !progress.stopped(); ++n) {
        const auto& glance = glances[n];
        if (!glance.is_record || !glance.is_base) continue;
        if (n >= MFT_REC_FREE && !glance.is_dir && !glance.is_extend) continue;
        const auto file = table_.file_of(n, windows);
        if (n == MFT_REC_MFT || n == MFT_REC_MIRR) places.add(records, file, u"");
        if (n == MFT_REC_LOG) places.add(journals, file, u"");
        if (n == MFT_REC_BITMAP) places.add(bitmap, file, u"");
        if (glance.is_extend && is_named(file, u"$UsnJrnl")) places.add(journals, file, u"$J");
        places.add(indexes, file.index_runs);
    }
    return {std::move(boot), std::move(records), std::move(bitmap), std::move(indexes), std::move(journals)};
}

}  // namespace undershelf::ntfs
