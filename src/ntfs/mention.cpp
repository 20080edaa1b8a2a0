#include "ntfs/mention.hpp"

#include "ntfs/file_info.hpp"
#include "ntfs/structures.hpp"

namespace undershelf::ntfs {

namespace {
bool is_of_this_age(std::uint64_t filetime) {
    constexpr std::uint64_t from = 119'600'064'000'000'000, to = 157'766'880'000'000'000;  // 1980 to 2100
    return filetime >= from && filetime <= to;
}
}  // namespace

bool looks_like_name(Bytes bytes, std::size_t cut) {
    const auto f = load<FileName>(bytes);
    if (!f || f->name_len == 0 || f->type > 3 || bytes.size() < sizeof(FileName) + f->name_len * 2u)
        return false;
    if (cut > offsetof(FileName, name_len)) return false;
    if ((cut <= offsetof(FileName, cr_time) && !is_of_this_age(f->cr_time.value())) ||
        (cut <= offsetof(FileName, m_time) && !is_of_this_age(f->m_time.value())) ||
        (cut <= offsetof(FileName, c_time) && !is_of_this_age(f->c_time.value())) ||
        (cut <= offsetof(FileName, a_time) && !is_of_this_age(f->a_time.value())))
        return false;
    // With fewer times to go by, the sizes have to agree as well.
    if (cut > offsetof(FileName, cr_time) && cut <= offsetof(FileName, alloc_size) &&
        f->data_size.value() > f->alloc_size.value())
        return false;
    for (std::size_t i = 0; i < f->name_len; ++i) {
        const auto unit = load<little_uint16_buf_t>(bytes, sizeof(FileName) + i * 2)->value();
        if (unit < 0x20 || unit == '/' || unit == 0xFFFF) return false;
    }
    return true;
}

bool looks_like_index_entry(Bytes bytes) {
    constexpr std::uint16_t last = 2;
    const auto head = load<IndexEntry>(bytes);
    if (!head) return false;
    const bool is_end = head->ref.value() == 0 && head->key_size.value() == 0 &&
                        (head->flags.value() & last) &&
                        (head->size.value() == sizeof(IndexEntry) ||
                         head->size.value() == sizeof(IndexEntry) + sizeof(std::uint64_t));
    return is_end || index_entry_mention(bytes);
}

std::optional<Mention> index_entry_mention(Bytes bytes) {
    const auto head = load<IndexEntry>(bytes);
    const auto f = load<FileName>(bytes, sizeof(IndexEntry));
    if (!head || !f || head->key_size.value() != sizeof(FileName) + f->name_len * 2u) return std::nullopt;
    const auto value = bytes.subspan(sizeof(IndexEntry));
    const auto name = looks_like_name(value) ? parse_name(value) : std::nullopt;
    if (!name || name->type == FILE_NAME_DOS) return std::nullopt;
    Mention m;
    m.file = Reference::unpack(head->ref.value());
    m.folder = {name->parent_record, name->parent_sequence};
    m.name = name->name;
    m.is_dir = f->fa.value() & DUP_FILE_NAME_INDEX_PRESENT;
    m.created = name->created;
    m.modified = name->modified;
    m.size = m.is_dir ? 0 : f->data_size.value();
    return m;
}

}  // namespace undershelf::ntfs
