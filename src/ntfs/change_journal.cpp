#include "ntfs/change_journal.hpp"

#include <algorithm>

#include "base/text.hpp"
#include "ntfs/structures.hpp"

namespace undershelf::ntfs {

namespace {

// Records do not cross pages of 4096 bytes, so that stretches can be read by themselves.
constexpr std::uint64_t page_size = 4096, stretch_size = 256 * page_size;

template <class Record>
std::optional<Mention> mention_in(Bytes bytes) {
    const auto r = load<Record>(bytes);
    if (!r) return std::nullopt;
    const std::size_t length = r->FileNameLength.value(), from = r->FileNameOffset.value();
    if (length == 0 || length % 2 || length > 510 || from < sizeof(Record) || from > bytes.size() ||
        length > bytes.size() - from)
        return std::nullopt;
    Mention m;
    m.file = Reference::unpack(r->FileReferenceNumber[0].value());
    m.folder = Reference::unpack(r->ParentFileReferenceNumber[0].value());
    m.name = utf16_units(bytes.subspan(from, length));
    m.is_dir = r->FileAttributes.value() & FILE_ATTRIBUTE_DIRECTORY;
    m.when = time_from_filetime(r->TimeStamp.value());
    const auto reason = r->Reason.value();
    m.what = reason & USN_REASON_FILE_DELETE       ? Mention::What::deleted
             : reason & USN_REASON_RENAME_OLD_NAME ? Mention::What::renamed
                                                   : Mention::What::named;
    return m;
}

}  // namespace

void read_journal_records(Bytes bytes, std::uint64_t offset, const MentionSink& sink) {
    std::size_t at = 0;
    while (const auto head = load<UsnRecordHead>(bytes, at)) {
        const std::size_t length = head->RecordLength.value(), version = head->MajorVersion.value();
        if (length < sizeof(UsnRecordHead) || length % 8 || length > std::min(page_size, bytes.size() - at) ||
            version < 2 || version > 4) {
            // Zeros fill the rest of a page; after a broken record the next one that makes sense counts.
            at += 8;
            continue;
        }
        const auto record = bytes.subspan(at, length);
        // Version 4 tells extents, no names.
        auto mention = version == 2   ? mention_in<UsnRecordV2>(record)
                       : version == 3 ? mention_in<UsnRecordV3>(record)
                                      : std::nullopt;
        if (mention) {
            mention->source = offset + at;
            sink(std::move(*mention));
        }
        at += length;
    }
}

void read_change_journal(const Source& source, std::uint64_t volume_offset, const Geometry& geometry,
                         const Stream& stream, const MentionSink& sink) {
    if (stream.resident) return read_journal_records(stream.bytes, stream.bytes_at, sink);
    std::uint64_t stored = 0;
    for (const auto& run : stream.runs) stored += run.sparse ? 0 : run.count * geometry.cluster_size;
    auto skip = stored - std::min(stored, bound::journal_bytes);
    for (const auto& run : stream.runs) {
        if (run.sparse) continue;
        const auto length = run.count * geometry.cluster_size,
                   from = std::min(skip, length) / page_size * page_size;
        skip -= std::min(skip, length);
        for (auto at = from; at < length; at += stretch_size) {
            const ByteRange range{volume_offset + run.lcn * geometry.cluster_size + at,
                                  std::min(stretch_size, length - at)};
            if (range.offset >= source.size()) break;
            read_journal_records(source.read_vector(range), range.offset, sink);
        }
    }
}

}  // namespace undershelf::ntfs
