#include "hfsplus/composer.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include "base/text.hpp"
#include "volume/content_stream.hpp"
#include "volume/link_target.hpp"

namespace undershelf::hfsplus {

namespace {

constexpr std::uint8_t UF_COMPRESSED = 0x20;
constexpr std::uint32_t no_type = 0x3F3F3F3F;  // ????
constexpr std::uint64_t chunk_size = 64 << 10;
constexpr std::uint64_t most_chunks = 1 << 20;

std::uint64_t fork_key(std::uint32_t id, bool resource) {
    return std::uint64_t{id} << 1 | resource;
}

void put(ByteVector& out, std::uint64_t value, int bytes) {
    for (int i = bytes - 1; i >= 0; --i) out.push_back(static_cast<std::uint8_t>(value >> 8 * i));
}

/// Is there anything in it that its user could miss?
bool finder_info_tells(const Item& item) {
    std::uint8_t info[32];
    std::copy_n(item.finder_info, 32, info);
    // Drivers without types of their own fill in four question marks; those of links say that they are links.
    const bool none = item.type == no_type && item.creator == no_type;
    if (none || item.is_link()) std::memset(info, 0, 8);
    return !all_zero({info, 32});
}

std::string method_name(std::uint32_t type) {
    switch (type) {
        case 5:
            return "its content is not on the volume (dataless, method 5)";
        case 7:
        case 8:
            return fmt::format("LZVN (method {}), which is not unpacked", type);
        case 11:
        case 12:
            return fmt::format("LZFSE (method {}), which is not unpacked", type);
        default:
            return fmt::format("method {}, which is not unpacked", type);
    }
}

/// Adds a piece after those that are there.
void add_piece(Entry& e, Piece p, std::uint64_t length) {
    p.offset = e.pieces.empty() ? 0 : e.pieces.back().offset + e.pieces.back().length;
    p.length = std::min(length, e.size - p.offset);
    if (p.length) e.pieces.push_back(std::move(p));
}

void add_stored(Entry& e, const std::vector<ByteRange>& places) {
    for (const auto& r : places) {
        Piece p;
        p.source = r.offset;
        add_piece(e, std::move(p), r.length);
    }
}

}  // namespace

void SideRecords::add(OverflowExtents&& x) {
    overflow_.emplace(std::pair{fork_key(x.id, x.resource), x.start_block}, std::move(x.extents));
}

std::vector<Extent> SideRecords::all_extents(const ForkInfo& fork, std::uint32_t id, bool resource) const {
    auto out = fork.extents;
    std::uint64_t blocks = 0;
    for (const auto& e : out) blocks += e.count;
    while (blocks < fork.blocks && out.size() >= 8) {
        const auto it = overflow_.find({fork_key(id, resource), static_cast<std::uint32_t>(blocks)});
        if (it == overflow_.end() || it->second.empty()) break;
        for (const auto& e : it->second) {
            out.push_back(e);
            blocks += e.count;
        }
    }
    return out;
}

const std::vector<KnownAttribute>* SideRecords::attributes(std::uint32_t id) const {
    const auto it = attributes_.find(id);
    return it == attributes_.end() ? nullptr : &it->second;
}

EntryKey Composer::folder_key(std::uint32_t id) {
    return id == kHFSRootFolderID ? root_key : key_of(id, true);
}

void Composer::lay_out(Entry& e, const ForkInfo& fork, const std::vector<Extent>& extents) const {
    std::vector<ByteRange> places;
    for (const auto& x : extents)
        places.push_back({geometry_.offset + std::uint64_t{x.start} * geometry_.block_size,
                          std::uint64_t{x.count} * geometry_.block_size});
    add_stored(e, places);
    e.claims.insert(e.claims.end(), places.begin(), places.end());
    Piece missing;
    missing.kind = PieceKind::missing;
    add_piece(e, std::move(missing), e.size);
    if (!fork.sound) e.evidence.push_back({Fact::bad_metadata, 0, 0, "one of its extents leaves the volume"});
}

void Composer::compose(const Item& item, Origin origin, const SideRecords& side, std::vector<Entry>& out,
                       const std::string& target) const {
    Entry e;
    e.key = key_of(item.id, item.is_dir);
    e.parent = folder_key(item.parent);
    e.origin = origin;
    e.name = shown(item.name);
    e.is_dir = item.is_dir;
    e.created = time_from(item.created);
    e.modified = time_from(item.modified);
    e.accessed = time_from(item.accessed);
    if (item.is_invisible()) e.attributes |= attribute::hidden;
    if (const auto* attributes = side.attributes(item.id)) {
        for (const auto& a : *attributes)
            e.evidence.push_back({Fact::extended_attribute, 0, 0,
                                  fmt::format("It has the attribute {}, {} bytes.", a.name, a.size)});
    }
    if (item.is_dir) {
        e.layout = Layout::known;
        auto fork = apple_double(e, item, side, false);
        out.push_back(std::move(e));
        if (fork) out.push_back(std::move(*fork));
        return;
    }
    const bool packed = (item.owner_flags & UF_COMPRESSED) && item.data.size == 0 && unpack(e, item, side);
    if (!packed) {
        e.size = item.data.size;
        e.layout = item.data.extents.empty() && (e.size > 0 || origin != Origin::live) ? Layout::none
                                                                                       : Layout::known;
        if (e.layout == Layout::known) {
            const auto extents = side.all_extents(item.data, item.id, false);
            lay_out(e, item.data, extents);
            if (!extents.empty()) e.evidence.push_back({Fact::extents_known, extents.size(), 0, {}});
        } else {
            e.evidence.push_back({Fact::no_start, 0, 0, {}});
        }
    }
    if (item.is_link()) describe_link(e, item, target);
    auto fork = apple_double(e, item, side, packed && !e.claims.empty());
    out.push_back(std::move(e));
    if (fork) out.push_back(std::move(*fork));
}

/// What a link leads to: of a symbolic one its content; of a hard one `target`, or the name of an inode that
/// is not there.
void Composer::describe_link(Entry& e, const Item& item, const std::string& target) const {
    e.link.emplace();
    const auto say = [&e](const char* what) { e.evidence.push_back({Fact::reparse_point, 0, 0, what}); };
    if (item.is_symlink()) {
        say("It is a symbolic link.");
        if (e.size > longest_target) return;
        const auto bytes = ContentStream(source_, e.pieces, e.size).first(static_cast<std::size_t>(e.size));
        e.link =
            recorded_target(composed({reinterpret_cast<const char*>(bytes.data()), bytes.size()}), e.origin);
        return;
    }
    if (!target.empty()) {
        say("It is a hard link to a folder.");
        e.link = target;
        hold_target(e, item.source);
        return;
    }
    e.link = fmt::format("{}{}", item.is_hard_link() ? "iNode" : "dir_", item.special);
    say("It is a hard link. What it means is in another record, which is lost.");
    if (!e.pieces.empty()) return;
    e.layout = Layout::none;
    if (!has_fact(e.evidence, Fact::no_start)) e.evidence.push_back({Fact::no_start, 0, 0, {}});
}

/// Contents packed by com.apple.decmpfs; false when the file has no such attribute.
bool Composer::unpack(Entry& e, const Item& item, const SideRecords& side) const {
    const auto* attributes = side.attributes(item.id);
    if (!attributes) return false;
    for (const auto& a : *attributes) {
        const auto head = load<DecmpfsHeader>(a.head);
        if (a.name != "com.apple.decmpfs" || !head || std::memcmp(head->magic, "fpmc", 4) != 0) continue;
        const auto type = head->type.value();
        e.size = std::min<std::uint64_t>(head->size.value(), 1ull << 50);
        e.layout = Layout::known;
        if (type == 3 && a.head.size() > sizeof(DecmpfsHeader) && a.places.size() == 1) {
            e.evidence.push_back({Fact::compressed, 0, 0, "zlib, in its attribute"});
            auto place = a.places.front();
            place = {place.offset + sizeof(DecmpfsHeader), place.length - sizeof(DecmpfsHeader)};
            Piece p;
            if ((a.head[sizeof(DecmpfsHeader)] & 0x0F) == 0x0F) {
                p.source = place.offset + 1;
                e.size = std::min(e.size, place.length - 1);
            } else {
                p.kind = PieceKind::packed;
                p.codec = Codec::zlib_chunk;
                p.input = {place};
            }
            if (e.size <= (64 << 20)) add_piece(e, std::move(p), e.size);
        } else if (type == 4) {
            e.evidence.push_back({Fact::compressed, 0, 0, "zlib, in its resource fork"});
            unpack_chunks(e, item, side);
        } else {
            e.evidence.push_back({Fact::compressed, 0, 0, method_name(type)});
        }
        Piece missing;
        missing.kind = PieceKind::missing;
        add_piece(e, std::move(missing), e.size);
        return true;
    }
    return false;
}

/// The resource fork begins with where its data is; there, after a length, the number of chunks and the
/// place of each, counted from that number, little-endian.
void Composer::unpack_chunks(Entry& e, const Item& item, const SideRecords& side) const {
    const auto extents = side.all_extents(item.resource, item.id, true);
    const Fork fork(source_, geometry_, extents, item.resource.size);
    e.claims = fork.places(0, fork.size());
    ByteVector head(8);
    fork.read(0, MutableBytes(head).first(4));
    const std::uint64_t base = std::uint64_t{load<big_uint32_buf_t>(head)->value()} + 4;
    fork.read(base, MutableBytes(head).first(4));
    const std::uint64_t count = load<boost::endian::little_uint32_buf_t>(head)->value();
    if (count > most_chunks || count > (e.size + chunk_size - 1) / chunk_size ||
        base + 4 + count * 8 > fork.size())
        return;
    ByteVector table(static_cast<std::size_t>(count) * 8);
    fork.read(base + 4, table);
    for (std::size_t i = 0; i < count; ++i) {
        const std::uint64_t at = base + load<boost::endian::little_uint32_buf_t>(table, i * 8)->value();
        const std::uint64_t size = load<boost::endian::little_uint32_buf_t>(table, i * 8 + 4)->value();
        const auto length = std::min<std::uint64_t>(chunk_size, e.size - i * chunk_size);
        if (size == 0 || at + size > fork.size() || size > 2 * chunk_size) return;
        std::uint8_t first = 0;
        fork.read(at, {&first, 1});
        if ((first & 0x0F) == 0x0F) {
            add_stored(e, fork.places(at + 1, std::min(length, size - 1)));
            continue;
        }
        Piece p;
        p.kind = PieceKind::packed;
        p.codec = Codec::zlib_chunk;
        p.input = fork.places(at, size);
        add_piece(e, std::move(p), length);
    }
}

/// RFC 1740: a head, the places of its parts, the Finder info (id 9) and the resource fork (id 2).
std::optional<Entry> Composer::apple_double(const Entry& main, const Item& item, const SideRecords& side,
                                            bool packed_in_fork) const {
    const auto fork_size = packed_in_fork || item.is_dir ? 0 : item.resource.size;
    if ((!finder_info_tells(item) && fork_size == 0) || fork_size > UINT32_MAX - 128) return std::nullopt;
    Entry e = main;
    e.key = key_of(item.id, false);
    e.is_dir = false;
    e.link.reset();
    e.stream = resource_fork_stream;
    e.pieces.clear();
    e.claims.clear();
    e.evidence.clear();
    e.layout = Layout::known;
    const std::uint32_t parts = fork_size ? 2 : 1, head_size = 26 + 12 * parts;
    Piece head;
    head.kind = PieceKind::inlined;
    head.source = item.source;
    put(head.bytes, 0x00051607, 4);
    put(head.bytes, 0x00020000, 4);
    head.bytes.resize(24);
    put(head.bytes, parts, 2);
    put(head.bytes, 9, 4);
    put(head.bytes, head_size, 4);
    put(head.bytes, 32, 4);
    if (fork_size) {
        put(head.bytes, 2, 4);
        put(head.bytes, head_size + 32, 4);
        put(head.bytes, fork_size, 4);
    }
    head.bytes.insert(head.bytes.end(), item.finder_info, item.finder_info + 32);
    e.size = head.bytes.size() + fork_size;
    const auto length = head.bytes.size();
    add_piece(e, std::move(head), length);
    if (fork_size) {
        const auto extents = side.all_extents(item.resource, item.id, true);
        lay_out(e, item.resource, extents);
        if (extents.empty()) e.layout = Layout::none;
        e.evidence.push_back({Fact::extents_known, extents.size(), 0, {}});
    }
    return e;
}

}  // namespace undershelf::hfsplus
