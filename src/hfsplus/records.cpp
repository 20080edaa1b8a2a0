#include "hfsplus/records.hpp"

#include <algorithm>

#include "base/text.hpp"

namespace undershelf::hfsplus {

namespace {

constexpr std::int64_t epoch_1904 = -2'082'844'800;  // seconds from 1970
constexpr std::size_t longest_name = 255;
constexpr std::uint32_t no_date = 0;

std::u16string name_from(Bytes units) {
    std::u16string out(units.size() / 2, u'\0');
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = static_cast<char16_t>(units[i * 2] << 8 | units[i * 2 + 1]);
    return out;
}

std::uint32_t number_at(const std::uint8_t* p) {
    return std::uint32_t{p[0]} << 24 | std::uint32_t{p[1]} << 16 | std::uint32_t{p[2]} << 8 | p[3];
}

struct Key {
    std::uint32_t parent = 0;
    Bytes units;
    std::size_t size = 0;  ///< bytes, with its length field
};

std::optional<Key> read_key(Bytes bytes) {
    const auto k = load<HFSPlusCatalogKey>(bytes);
    if (!k) return std::nullopt;
    const std::size_t length = k->nodeNameLength.value();
    if (length > longest_name || k->keyLength.value() != 6 + 2 * length || bytes.size() < 8 + 2 * length)
        return std::nullopt;
    return Key{k->parentID.value(), bytes.subspan(8, length * 2), 8 + 2 * length};
}

ForkInfo fork_info(const HFSPlusForkData& f, const Geometry& g) {
    ForkInfo out;
    out.size = f.logicalSize.value();
    out.blocks = f.totalBlocks.value();
    out.extents = extents_of(f.extents, g.total_blocks, out.sound);
    return out;
}

void take_head(Item& item, const HFSPlusCatalogHead& h) {
    item.id = h.id.value();
    item.created = h.createDate.value();
    item.modified = h.contentModDate.value();
    item.changed = h.attributeModDate.value();
    item.accessed = h.accessDate.value();
    item.owner_flags = h.permissions.ownerFlags;
    item.special = h.permissions.special.value();
    std::copy_n(h.userInfo, 16, item.finder_info);
    std::copy_n(h.finderInfo, 16, item.finder_info + 16);
    if (!item.is_dir) {
        item.type = number_at(h.userInfo);
        item.creator = number_at(h.userInfo + 4);
    }
}

/// The folder or file record at the start of `bytes`, without its key.
std::optional<Item> read_body(Bytes bytes, const Geometry& g) {
    const auto head = load<HFSPlusCatalogHead>(bytes);
    if (!head) return std::nullopt;
    Item item;
    const auto type = head->recordType.value();
    if (type == kHFSPlusFolderRecord) {
        item.is_dir = true;
        take_head(item, *head);
        return item;
    }
    const auto file = load<HFSPlusCatalogFile>(bytes);
    if (type != kHFSPlusFileRecord || !file) return std::nullopt;
    take_head(item, *head);
    item.data = fork_info(file->dataFork, g);
    item.resource = fork_info(file->resourceFork, g);
    return item;
}

bool plausible_date(std::uint32_t date, const Bounds& b, bool may_be_none) {
    return date == no_date ? may_be_none : date >= b.earliest && date <= b.latest;
}

bool plausible_id(std::uint32_t id, const Bounds& b) {
    return id >= kHFSFirstUserCatalogNodeID && (b.next_id == 0 || id < b.next_id);
}

bool plausible_parent(std::uint32_t id, const Bounds& b) {
    return id == kHFSRootFolderID || plausible_id(id, b);
}

bool plausible_fork(const ForkInfo& f, const Bounds& b) {
    if (!f.sound) return false;
    std::uint64_t in_record = 0;
    for (const auto& e : f.extents) in_record += e.count;
    if (f.blocks > b.geometry.total_blocks || in_record > f.blocks) return false;
    if (in_record < f.blocks && f.extents.size() < 8) return false;
    return f.size <= std::uint64_t{f.blocks} * b.geometry.block_size;
}

bool plausible_name(const std::u16string& name) {
    if (name.empty() || name.size() > longest_name) return false;
    for (std::size_t i = 0; i < name.size(); ++i) {
        const auto c = name[i];
        // Only the private folder has NULs, four of them in front.
        if ((c == 0 && i >= 4) || c == 0xFFFF || c == 0xFFFE) return false;
    }
    return true;
}

bool plausible_body(const Item& i, const Bounds& b) {
    return plausible_id(i.id, b) && plausible_date(i.created, b, false) &&
           plausible_date(i.modified, b, false) && plausible_date(i.changed, b, true) &&
           plausible_date(i.accessed, b, true) && plausible_fork(i.data, b) && plausible_fork(i.resource, b);
}

/// The key that ends where a record's data begins at `at`.
std::optional<Key> key_before(Bytes bytes, std::size_t at) {
    for (std::size_t length = 1; length <= longest_name && 8 + 2 * length <= at; ++length) {
        const auto from = at - 8 - 2 * length;
        // The length is there twice; checked first, since this is asked for often.
        if (bytes[from + 7] != (length & 0xFF) || bytes[from + 6] != 0) continue;
        const auto key = read_key(bytes.subspan(from, at - from));
        if (key && key->size == at - from) return key;
    }
    return std::nullopt;
}

}  // namespace

std::optional<Item> read_item(Bytes record, const Geometry& g) {
    const auto key = read_key(record);
    if (!key || key->units.empty()) return std::nullopt;
    auto item = read_body(record.subspan(key->size), g);
    if (!item) return std::nullopt;
    item->parent = key->parent;
    item->name = name_from(key->units);
    return item;
}

std::optional<Item> read_plausible_item(Bytes record, const Bounds& b) {
    auto item = read_item(record, b.geometry);
    if (!item || !plausible_parent(item->parent, b) || !plausible_name(item->name) ||
        !plausible_body(*item, b))
        return std::nullopt;
    return item;
}

std::size_t catalogue_record_length(Bytes bytes) {
    const auto key = read_key(bytes);
    const auto head = key ? load<boost::endian::big_uint16_buf_t>(bytes, key->size) : std::nullopt;
    if (!head) return 0;
    std::size_t body = 0;
    switch (head->value()) {
        case kHFSPlusFolderRecord:
            body = sizeof(HFSPlusCatalogHead);
            break;
        case kHFSPlusFileRecord:
            body = sizeof(HFSPlusCatalogFile);
            break;
        default:
            const auto thread = read_thread(bytes);
            if (!thread) return 0;
            body = sizeof(HFSPlusCatalogThread) + 2 * thread->name.size();
    }
    return key->size + body <= bytes.size() ? key->size + body : 0;
}

std::optional<Thread> read_thread(Bytes record) {
    const auto key = read_key(record);
    if (!key || !key->units.empty()) return std::nullopt;
    const auto body = record.subspan(key->size);
    const auto t = load<HFSPlusCatalogThread>(body);
    if (!t) return std::nullopt;
    const auto type = t->recordType.value();
    const std::size_t length = t->nodeNameLength.value();
    if ((type != kHFSPlusFolderThreadRecord && type != kHFSPlusFileThreadRecord) || length > longest_name ||
        body.size() < sizeof(HFSPlusCatalogThread) + 2 * length)
        return std::nullopt;
    return Thread{key->parent, t->parentID.value(),
                  name_from(body.subspan(sizeof(HFSPlusCatalogThread), 2 * length)),
                  type == kHFSPlusFolderThreadRecord, 0};
}

std::optional<OverflowExtents> read_overflow(Bytes record, const Geometry& g) {
    const auto r = load<HFSPlusExtentRecord>(record);
    if (!r || r->keyLength.value() != 10 || (r->forkType != 0 && r->forkType != 0xFF)) return std::nullopt;
    bool sound = true;
    OverflowExtents out{r->fileID.value(), r->forkType == 0xFF, r->startBlock.value(),
                        extents_of(r->extents, g.total_blocks, sound)};
    if (!sound && out.extents.empty()) return std::nullopt;
    return out;
}

std::optional<Attribute> read_attribute(Bytes record, const Geometry& g) {
    const auto k = load<HFSPlusAttrKey>(record);
    if (!k) return std::nullopt;
    const std::size_t length = k->attrNameLen.value();
    if (length == 0 || length > 127 || k->keyLength.value() != 12 + 2 * length) return std::nullopt;
    const std::size_t body = sizeof(HFSPlusAttrKey) + 2 * length;
    const auto type = load<big_uint32_buf_t>(record, body);
    if (!type || k->startBlock.value() != 0) return std::nullopt;
    Attribute out;
    out.id = k->fileID.value();
    out.name = name_from(record.subspan(sizeof(HFSPlusAttrKey), 2 * length));
    if (type->value() == kHFSPlusAttrInlineData) {
        const auto data = load<HFSPlusAttrData>(record, body);
        if (!data || data->attrSize.value() > record.size() - body - sizeof(HFSPlusAttrData))
            return std::nullopt;
        out.in_record = true;
        out.size = data->attrSize.value();
        out.data_at = body + sizeof(HFSPlusAttrData);
        const auto value = record.subspan(out.data_at, static_cast<std::size_t>(out.size));
        out.data.assign(value.begin(), value.end());
        return out;
    }
    const auto fork = load<HFSPlusAttrForkData>(record, body);
    if (type->value() != kHFSPlusAttrForkData || !fork) return std::nullopt;
    out.fork = fork_info(fork->theFork, g);
    out.size = out.fork.size;
    return out;
}

void find_leftovers(Bytes bytes, std::uint64_t offset, const Bounds& bounds, const Leftovers& out) {
    // Keys whose data was recognised are not told again as bare names.
    std::size_t told_to = 0;
    for (std::size_t at = 0; at + sizeof(HFSPlusCatalogThread) <= bytes.size(); at += 2) {
        const auto rest = bytes.subspan(at);
        if (rest[0] == 0 && (rest[1] == kHFSPlusFolderRecord || rest[1] == kHFSPlusFileRecord)) {
            auto item = read_body(rest, bounds.geometry);
            if (item && plausible_body(*item, bounds)) {
                const auto key = key_before(bytes, at);
                item->has_key = key && plausible_parent(key->parent, bounds);
                if (item->has_key) {
                    item->parent = key->parent;
                    item->name = name_from(key->units);
                    item->has_key = plausible_name(item->name);
                }
                item->source = offset + at;
                at += (item->is_dir ? sizeof(HFSPlusCatalogHead) : sizeof(HFSPlusCatalogFile)) - 2;
                told_to = at;
                out.item(std::move(*item));
                continue;
            }
        }
        const auto key = read_key(rest);
        if (!key) continue;
        if (key->units.empty()) {
            auto thread = read_thread(rest);
            if (thread && plausible_id(thread->id, bounds) && plausible_parent(thread->parent, bounds) &&
                plausible_name(thread->name)) {
                thread->source = offset + at;
                out.thread(std::move(*thread));
            }
            continue;
        }
        if (at < told_to || !plausible_parent(key->parent, bounds)) continue;
        BareName name{key->parent, name_from(key->units), offset + at};
        // A record of the catalogue, or the node below an index key, has to follow; or the space ends there.
        const auto body = rest.subspan(key->size);
        const auto type = load<big_uint16_buf_t>(body);
        const auto below = load<big_uint32_buf_t>(body);
        const bool record =
            type && (type->value() == kHFSPlusFolderRecord || type->value() == kHFSPlusFileRecord);
        const bool index = below && below->value() > 0 && below->value() < bounds.nodes;
        if (plausible_name(name.name) && (index || (record && body.size() < sizeof(HFSPlusCatalogFile))))
            out.name(std::move(name));
    }
}

void find_overflow_leftovers(Bytes bytes, const Bounds& bounds,
                             const std::function<void(OverflowExtents&&)>& out) {
    for (std::size_t at = 0; at + sizeof(HFSPlusExtentRecord) <= bytes.size(); at += 2) {
        if (bytes[at] != 0 || bytes[at + 1] != 10) continue;
        auto found = read_overflow(bytes.subspan(at), bounds.geometry);
        if (found && !found->extents.empty() && plausible_id(found->id, bounds) && found->start_block > 0)
            out(std::move(*found));
    }
}

void find_attribute_leftovers(Bytes bytes, const Bounds& bounds,
                              const std::function<void(Attribute&&)>& out) {
    for (std::size_t at = 0; at + sizeof(HFSPlusAttrKey) <= bytes.size(); at += 2) {
        auto found = read_attribute(bytes.subspan(at), bounds.geometry);
        if (!found || !plausible_id(found->id, bounds)) continue;
        found->data_at += at;
        out(std::move(*found));
    }
}

MaybeTime time_from(std::uint32_t seconds) {
    if (seconds == no_date) return std::nullopt;
    return Timestamp{(std::int64_t{seconds} + epoch_1904) * Timestamp::per_second, 0};
}

std::string shown(const std::u16string& name) {
    if (name.find(u'\0') == std::u16string::npos) return utf8_from_utf16(name);
    auto text = name;
    std::replace(text.begin(), text.end(), u'\0', u'\x2400');
    return utf8_from_utf16(text);
}

}  // namespace undershelf::hfsplus
