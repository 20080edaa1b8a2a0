#include "ntfs/own_leftovers.hpp"

#include <algorithm>
#include <cstring>

#include "ntfs/mention.hpp"

namespace undershelf::ntfs {

namespace {
constexpr std::size_t index_head = 24;  ///< bytes of an index block before its list of entries
constexpr std::size_t most_named = 8;   ///< entries of a block that are looked up

/// Ticks of the births that a record tells: the file's own, and those that its names were given with.
std::vector<std::int64_t> births_of(Bytes record) {
    std::vector<std::int64_t> out;
    const auto add = [&](std::uint64_t filetime) {
        if (const auto t = time_from_filetime(filetime)) out.push_back(t->ticks);
    };
    for (const auto& a : attributes_of(record)) {
        if (a.type == ATTR_STD) {
            if (const auto info = load<StandardInformation>(a.value())) add(info->cr_time.value());
        } else if (a.type == ATTR_NAME) {
            if (const auto name = load<FileName>(a.value())) add(name->cr_time.value());
        }
    }
    return out;
}
}  // namespace

OwnLeftovers::OwnLeftovers(const Source& source, const Volume& volume) : source_(source), volume_(volume) {
    if (!volume.geometry.empty()) return;
    geometry_ = read_geometry(source, volume.head_offset);
    if (!geometry_) return;
    table_.emplace(source, volume.offset, *geometry_);
    window_.most = std::max<std::uint64_t>(window_.most, geometry_->record_size);
}

Bytes OwnLeftovers::own_record(std::uint64_t number) const {
    if (number >= table_->records() || lookups_left_ == 0) return {};
    --lookups_left_;
    return table_->get(number, window_).bytes;
}

bool OwnLeftovers::knows(std::uint64_t number, const std::vector<std::int64_t>& births) const {
    const auto own = births_of(own_record(number));
    return std::any_of(births.begin(), births.end(),
                       [&](std::int64_t t) { return std::find(own.begin(), own.end(), t) != own.end(); });
}

/// Numbers begin anew with every format, but folders of this volume were made after it.
bool OwnLeftovers::made_in_its_folder(const Name& name) const {
    const auto record = own_record(name.parent_record);
    const auto head = load<FileRecord>(record);
    if (!head || !(head->flags.value() & RECORD_FLAG_DIR)) return false;
    const bool freed = !(head->flags.value() & RECORD_FLAG_IN_USE);
    const auto sequence = head->seq.value();
    if (sequence != name.parent_sequence && !(freed && sequence == next_sequence(name.parent_sequence)))
        return false;
    const auto births = births_of(record);
    return !births.empty() && births.front() <= name.created->ticks;
}

bool OwnLeftovers::has_record(std::uint64_t place, std::uint64_t number) const {
    if (!table_ || lookups_left_ == 0 || place < volume_.offset) return false;
    const auto bytes = record_at(source_, place, *geometry_);
    return bytes && knows(number, births_of(*bytes));
}

bool OwnLeftovers::has_block(std::uint64_t place) const {
    if (!table_ || lookups_left_ == 0 || place < volume_.offset) return false;
    auto bytes = source_.read_vector({place, std::max<std::size_t>(geometry_->index_size, 512)});
    if (std::memcmp(bytes.data(), "INDX", 4) != 0) return false;
    undo_fixups(bytes);
    std::size_t named = 0;
    for (std::size_t at = index_head; at + sizeof(IndexEntry) <= bytes.size() && named < most_named;
         at += 8) {
        const auto entry = Bytes(bytes).subspan(at);
        const auto value = entry.subspan(sizeof(IndexEntry));
        const auto name = looks_like_name(value) ? parse_name(value) : std::nullopt;
        if (!name || !name->created) continue;
        const auto mention = index_entry_mention(entry);
        if (mention && knows(mention->file.record, {name->created->ticks})) return true;
        if (made_in_its_folder(*name)) return true;
        ++named;
    }
    return false;
}

AllOwnLeftovers::AllOwnLeftovers(const Settling& settling) {
    for (const auto& life : settling.present) {
        if (life.volume.family == "NTFS") volumes_.emplace_back(settling.source, life.volume);
    }
}

bool AllOwnLeftovers::has_record(std::uint64_t place, std::uint64_t number) const {
    return std::any_of(volumes_.begin(), volumes_.end(),
                       [&](const OwnLeftovers& v) { return v.has_record(place, number); });
}

bool AllOwnLeftovers::has_block(std::uint64_t place) const {
    return std::any_of(volumes_.begin(), volumes_.end(),
                       [&](const OwnLeftovers& v) { return v.has_block(place); });
}

}  // namespace undershelf::ntfs
