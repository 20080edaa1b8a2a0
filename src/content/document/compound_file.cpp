#include "content/document/compound_file.hpp"

#include <algorithm>

#include "content/format.hpp"

namespace undershelf::content {

namespace {

using boost::endian::little_uint16_buf_t;
using boost::endian::little_uint32_buf_t;
using boost::endian::little_uint64_buf_t;
using namespace std::string_view_literals;

constexpr auto magic = "\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1"sv;

// [MS-CFB] 2.1: what a sector number says that is none.
constexpr std::uint32_t largest_sector = 0xFFFFFFFA, table_sector_list = 0xFFFFFFFC,
                        table_sector = 0xFFFFFFFD, end_of_chain = 0xFFFFFFFE, unused = 0xFFFFFFFF;

/// [MS-CFB] 2.2.
struct Head {
    char signature[8];
    std::uint8_t clsid[16];
    little_uint16_buf_t minor_version, major_version, byte_order, sector_shift, mini_sector_shift;
    std::uint8_t reserved[6];
    little_uint32_buf_t directory_sectors, fat_sectors, first_directory_sector, transaction_signature,
        mini_stream_cutoff, first_mini_fat_sector, mini_fat_sectors, first_difat_sector, difat_sectors;
    little_uint32_buf_t difat[109];
};
static_assert(sizeof(Head) == 512);

/// [MS-CFB] 2.6.
struct DirectoryEntry {
    little_uint16_buf_t name[32];
    little_uint16_buf_t name_length;
    std::uint8_t object_type, color;
    little_uint32_buf_t left_sibling, right_sibling, child;
    std::uint8_t clsid[16];
    little_uint32_buf_t state;
    std::uint8_t times[16];
    little_uint32_buf_t start;
    little_uint64_buf_t size;
};
static_assert(sizeof(DirectoryEntry) == 128);

constexpr std::uint8_t no_object = 0, storage_object = 1, stream_object = 2, root_object = 5;

std::string name_of(const DirectoryEntry& e) {
    std::string out;
    for (std::size_t i = 0; i + 1 < e.name_length.value() / 2u && i < 31; ++i) {
        const auto c = e.name[i].value();
        out += c >= 0x20 && c < 0x7F ? static_cast<char>(c) : '?';
    }
    return out;
}

}  // namespace

bool CompoundFile::begins(Bytes first) {
    const auto head = load<Head>(first);
    if (!head || !begins_with(first, magic) || head->byte_order.value() != 0xFFFE) return false;
    const auto shift = head->sector_shift.value();
    return (shift == 9 || shift == 12) && head->mini_sector_shift.value() == 6;
}

CompoundFile::CompoundFile(Content& content) : content_(content) {
    read_head();
    read_table();
    read_directory();
    check_streams();
}

void CompoundFile::read_head() {
    ByteVector bytes(sizeof(Head));
    bytes.resize(content_.read(0, bytes));
    if (!begins(bytes)) throw CompoundWrong{0, "its head makes no sense"};
    const auto head = *load<Head>(bytes);
    shift_ = head.sector_shift.value();
    small_limit_ = head.mini_stream_cutoff.value();
    directory_start_ = head.first_directory_sector.value();
    small_table_start_ = head.first_mini_fat_sector.value();
    table_sectors_ = head.fat_sectors.value();
    if (table_sectors_ == 0 || table_sectors_ > content_.size() >> shift_)
        throw CompoundWrong{sizeof(Head), "its sector table is larger than the file"};
    // Four bytes a sector, in a list that grows.
    memory_.grow(2 * (std::uint64_t{table_sectors_} << shift_));
    for (const auto& place : head.difat) {
        if (table_places_.size() < table_sectors_ && place.value() <= largest_sector)
            table_places_.push_back(place.value());
    }
    auto list = head.first_difat_sector.value();
    const std::size_t per_sector = sector_size() / 4;
    // A list that goes round in circles ends with the table's size.
    while (table_places_.size() < table_sectors_ && list <= largest_sector) {
        ByteVector sector(sector_size());
        if (content_.read(offset_of(list), sector) < sector.size())
            throw CompoundWrong{sizeof(Head), "the list of its table's sectors is cut off"};
        const auto before = table_places_.size();
        for (std::size_t i = 0; i + 1 < per_sector && table_places_.size() < table_sectors_; ++i) {
            const auto place = load<little_uint32_buf_t>(sector, i * 4)->value();
            if (place <= largest_sector) table_places_.push_back(place);
        }
        if (table_places_.size() == before) break;
        list = load<little_uint32_buf_t>(sector, (per_sector - 1) * 4)->value();
    }
    if (table_places_.size() < table_sectors_)
        throw CompoundWrong{sizeof(Head), "sectors of its table are not told"};
}

std::uint64_t CompoundFile::vouched_by_table_at(std::size_t table_sector_number) const {
    const auto first_told = static_cast<std::uint32_t>(table_sector_number * (sector_size() / 4));
    return std::min(offset_of(table_places_[table_sector_number]), offset_of(first_told));
}

void CompoundFile::read_table() {
    const auto sectors = (content_.size() + sector_size() - 1) >> shift_;
    ByteVector sector(sector_size());
    std::uint64_t last_used = 0;
    for (std::size_t i = 0; i < table_places_.size(); ++i) {
        const auto at = vouched_by_table_at(i);
        if (content_.read(offset_of(table_places_[i]), sector) < sector.size())
            throw CompoundWrong{std::min(at, content_.size()), "its sector table is cut off"};
        for (std::size_t j = 0; j < sector.size(); j += 4) {
            const auto next = load<little_uint32_buf_t>(sector, j)->value();
            if (next < table_sector_list && next >= sectors)
                throw CompoundWrong{at, "its sector table makes no sense"};
            if (next != unused) last_used = next_.size();
            next_.push_back(next);
        }
    }
    end_ = offset_of(static_cast<std::uint32_t>(last_used)) + sector_size();
    claimed_.resize(next_.size());
    for (std::size_t i = 0; i < table_places_.size(); ++i) {
        const auto place = table_places_[i];
        if (place >= next_.size() || next_[place] != table_sector)
            throw CompoundWrong{vouched_by_table_at(i), "its sector table does not know its own sectors"};
        claimed_[place] = true;
    }
    structure_bytes_ = sizeof(Head) + table_places_.size() * sector_size();
}

std::vector<std::uint32_t> CompoundFile::chain(std::uint32_t start) const {
    std::vector<std::uint32_t> out;
    for (auto s = start; s < next_.size() && out.size() <= next_.size(); s = next_[s]) out.push_back(s);
    return out;
}

/// The chain's sectors, which nobody else may have. Throws CompoundWrong.
std::vector<std::uint32_t> CompoundFile::claim(std::uint32_t start) {
    std::vector<std::uint32_t> out;
    auto at = start;
    while (at != end_of_chain) {
        if (at >= next_.size() || claimed_[at])
            throw CompoundWrong{sizeof(Head), "two chains of its sector table meet"};
        claimed_[at] = true;
        out.push_back(at);
        at = next_[at];
    }
    return out;
}

ByteVector CompoundFile::read_chain(const std::vector<std::uint32_t>& sectors) {
    constexpr std::uint64_t most_bytes = 64 << 20;  // of a directory, or a table of small sectors
    if (sectors.size() > most_bytes >> shift_) throw CompoundWrong{sizeof(Head), "its directory is too long"};
    memory_.grow(2 * (std::uint64_t{table_sectors_} << shift_) + (sectors.size() << shift_));
    ByteVector out(sectors.size() << shift_);
    for (std::size_t i = 0; i < sectors.size(); ++i) {
        const auto part = MutableBytes(out).subspan(i << shift_, sector_size());
        if (content_.read(offset_of(sectors[i]), part) == 0)
            throw CompoundWrong{std::min(offset_of(sectors[i]), content_.size()),
                                "sectors of it are missing"};
    }
    structure_bytes_ += out.size();
    return out;
}

void CompoundFile::read_directory() {
    // Without a directory nothing vouches for the streams.
    const auto bytes = read_chain(claim(directory_start_));
    const auto entries = bytes.size() / sizeof(DirectoryEntry);
    for (std::size_t i = 0; i < entries; ++i) {
        const auto e = *load<DirectoryEntry>(bytes, i * sizeof(DirectoryEntry));
        const auto link_holds = [&](std::uint32_t id) { return id == unused || id < entries; };
        if (e.object_type == no_object) continue;
        const bool known =
            e.object_type == storage_object || e.object_type == stream_object || e.object_type == root_object;
        if (!known || e.name_length.value() > 64 || e.name_length.value() % 2 || e.color > 1 ||
            !link_holds(e.left_sibling.value()) || !link_holds(e.right_sibling.value()) ||
            !link_holds(e.child.value()) || (i == 0) != (e.object_type == root_object))
            throw CompoundWrong{sizeof(Head), "its directory makes no sense"};
    }
    if (entries == 0) throw CompoundWrong{sizeof(Head), "its directory is missing"};
    walk_tree(bytes);
}

/// [MS-CFB] 2.6.4: each storage's objects are a tree of siblings, of which it knows one.
void CompoundFile::walk_tree(Bytes directory) {
    struct Step {
        std::uint32_t id, storage;
    };
    std::vector<Step> open{{0, 0}};
    std::vector<bool> seen(directory.size() / sizeof(DirectoryEntry));
    while (!open.empty()) {
        const auto [id, storage] = open.back();
        open.pop_back();
        if (id >= seen.size() || seen[id]) continue;
        seen[id] = true;
        const auto e = *load<DirectoryEntry>(directory, id * sizeof(DirectoryEntry));
        // With small sectors the upper half of a size may be anything.
        const auto size = shift_ == 9 ? e.size.value() & 0xFFFFFFFF : e.size.value();
        if (e.object_type == root_object) {
            small_start_ = e.start.value();
            small_size_ = size;
        } else if (e.object_type == stream_object) {
            streams_.push_back({name_of(e), storage, e.start.value(), size});
        }
        if (e.object_type != stream_object) open.push_back({e.child.value(), id});
        open.push_back({e.left_sibling.value(), storage});
        open.push_back({e.right_sibling.value(), storage});
    }
}

void CompoundFile::check_streams() {
    const auto fill = [&](const std::vector<std::uint32_t>& sectors, std::uint64_t size) {
        const auto needed = (size + sector_size() - 1) >> shift_;
        if (sectors.size() < needed) throw CompoundWrong{sizeof(Head), "the chain of a stream ends early"};
        if (needed == 0) return;
        const auto last_end =
            offset_of(sectors[static_cast<std::size_t>(needed - 1)]) + (size - 1) % sector_size() + 1;
        if (last_end > content_.size())
            throw CompoundWrong{content_.size(), "it ends before its last sector"};
    };
    if (small_size_ > 0) fill(claim(small_start_), small_size_);
    if (small_table_start_ <= largest_sector) small_next_ = read_chain(claim(small_table_start_));
    std::vector<bool> small_claimed(small_next_.size() / 4);
    for (const auto& s : streams_) {
        if (s.size == 0) continue;
        if (!is_small(s)) {
            fill(claim(s.start), s.size);
            continue;
        }
        auto at = s.start;
        for (std::uint64_t n = (s.size + 63) / 64; n > 0; --n) {
            if (at >= small_claimed.size() || small_claimed[at] ||
                (std::uint64_t{at} + 1) * 64 > small_size_ + 63)
                throw CompoundWrong{sizeof(Head), "the chain of a small stream makes no sense"};
            small_claimed[at] = true;
            at = load<little_uint32_buf_t>(small_next_, std::size_t{at} * 4)->value();
        }
    }
}

const CompoundStream* CompoundFile::stream(std::string_view name, std::uint32_t storage) const {
    const auto it = std::find_if(streams_.begin(), streams_.end(), [&](const CompoundStream& s) {
        return s.name == name && s.storage == storage;
    });
    return it == streams_.end() ? nullptr : &*it;
}

std::vector<std::uint32_t> CompoundFile::sectors_of(const CompoundStream& stream) const {
    return chain(stream.start);
}

ByteVector CompoundFile::read_small(const CompoundStream& stream) const {
    constexpr std::size_t small_sector = 64;
    const auto room = chain(small_start_);
    ByteVector out(static_cast<std::size_t>(stream.size));
    auto at = stream.start;
    for (std::size_t done = 0; done < out.size(); done += small_sector) {
        const auto place = std::uint64_t{at} * small_sector;
        const auto next = load<little_uint32_buf_t>(small_next_, std::size_t{at} * 4);
        if (!next || place >> shift_ >= room.size()) break;
        const auto offset =
            offset_of(room[static_cast<std::size_t>(place >> shift_)]) + place % sector_size();
        content_.read(offset, MutableBytes(out).subspan(done, std::min(small_sector, out.size() - done)));
        at = next->value();
    }
    return out;
}

std::uint64_t CompoundStreamContent::place_of(std::uint64_t offset) const {
    const auto i = static_cast<std::size_t>(offset / file_.sector_size());
    return i < sectors_.size() ? file_.offset_of(sectors_[i]) + offset % file_.sector_size() : whole_.size();
}

std::size_t CompoundStreamContent::read(std::uint64_t offset, MutableBytes out) {
    std::size_t done = 0;
    while (done < out.size() && offset + done < size_) {
        const auto at = offset + done;
        const auto in_sector = file_.sector_size() - at % file_.sector_size();
        const auto n =
            static_cast<std::size_t>(std::min<std::uint64_t>({in_sector, size_ - at, out.size() - done}));
        const auto got = whole_.read(place_of(at), out.subspan(done, n));
        done += got;
        if (got < n) break;
    }
    return done;
}

}  // namespace undershelf::content
