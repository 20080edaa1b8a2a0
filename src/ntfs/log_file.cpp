#include "ntfs/log_file.hpp"

#include <algorithm>
#include <cstring>

#include "ntfs/structures.hpp"

namespace undershelf::ntfs {

namespace {

constexpr std::size_t usual_page = 4096;
constexpr std::size_t stretch_pages = 256;

/// Size of the log's pages by its restart pages, in bytes.
std::size_t page_size_of(Bytes start) {
    for (const std::size_t at : {std::size_t{0}, usual_page}) {
        const auto head = load<RestartPageHeader>(start, at);
        if (!head || std::memcmp(head->sign, "RSTR", 4) != 0) continue;
        const auto size = head->page_size.value();
        if (size >= 512 && size <= 65536 && is_power_of_two(size)) return size;
    }
    return usual_page;
}

/// Names in the image of a whole record.
void read_record_image(Bytes bytes, std::uint64_t offset, const MentionSink& sink) {
    const auto head = load<FileRecord>(bytes);
    const auto number = own_number(bytes);
    if (!head || !number || !(head->flags.value() & RECORD_FLAG_IN_USE) || head->parent_ref.value() != 0 ||
        head->used.value() > bytes.size())
        return;
    for (const auto& a : attributes_of(bytes.first(head->used.value()))) {
        const auto name = a.type == ATTR_NAME ? parse_name(a.value()) : std::nullopt;
        if (!name || name->type == FILE_NAME_DOS || !looks_like_name(a.value())) continue;
        Mention m;
        m.file = {*number, head->seq.value()};
        m.folder = {name->parent_record, name->parent_sequence};
        m.name = name->name;
        m.is_dir = head->flags.value() & RECORD_FLAG_DIR;
        m.created = name->created;
        m.modified = name->modified;
        m.source = offset;
        sink(std::move(m));
    }
}

/// The records of consecutive pages, joined: a record goes on after the next page's head. `places` says
/// where each page's part came from.
struct Joined {
    ByteVector bytes;
    std::vector<std::pair<std::size_t, std::uint64_t>> places;

    std::uint64_t source_of(std::size_t at) const {
        auto it = std::upper_bound(places.begin(), places.end(), std::pair(at, std::uint64_t{UINT64_MAX}));
        --it;
        return it->second + (at - it->first);
    }
};

Joined join_pages(MutableBytes bytes, std::uint64_t offset, std::size_t page_size) {
    Joined out;
    for (std::size_t at = 0; at + page_size <= bytes.size(); at += page_size) {
        const auto page = bytes.subspan(at, page_size);
        if (std::memcmp(page.data(), "RCRD", 4) != 0) continue;
        undo_fixups(page);
        const auto head = *load<RecordPageHeader>(page);
        const std::size_t behind_fixups = head.fix_off.value() + head.fix_num.value() * std::size_t{2};
        const auto body = (std::max(behind_fixups, sizeof(RecordPageHeader)) + 7) / 8 * 8;
        if (body >= page_size) continue;
        out.places.emplace_back(out.bytes.size(), offset + at + body);
        out.bytes.insert(out.bytes.end(), page.begin() + static_cast<std::ptrdiff_t>(body), page.end());
    }
    return out;
}

void read_stretch(MutableBytes bytes, std::uint64_t offset, std::size_t page_size, const MentionSink& sink) {
    const auto log = join_pages(bytes, offset, page_size);
    for (std::size_t at = 0; at + sizeof(IndexEntry) + sizeof(FileName) <= log.bytes.size(); at += 8) {
        const auto rest = Bytes(log.bytes).subspan(at);
        if (std::memcmp(rest.data(), "FILE", 4) == 0) {
            read_record_image(rest, log.source_of(at), sink);
        } else if (auto m = index_entry_mention(rest)) {
            m->source = log.source_of(at);
            sink(std::move(*m));
        }
    }
}

}  // namespace

void read_log(const Source& source, std::uint64_t volume_offset, const Geometry& geometry,
              const Stream& stream, const MentionSink& sink) {
    std::uint64_t read = 0;
    std::size_t page_size = 0;
    for (const auto& run : stream.runs) {
        if (run.sparse) continue;
        const auto start = volume_offset + run.lcn * geometry.cluster_size;
        const auto length = run.count * geometry.cluster_size;
        for (std::uint64_t at = 0;
             at < length && read < bound::journal_bytes && start + at < source.size();) {
            auto bytes = source.read_vector(
                {start + at, std::min<std::uint64_t>(stretch_pages * usual_page, length - at)});
            if (page_size == 0) page_size = page_size_of(bytes);
            read_stretch(bytes, start + at, page_size, sink);
            at += bytes.size();
            read += bytes.size();
        }
    }
}

}  // namespace undershelf::ntfs
