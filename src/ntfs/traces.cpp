#include "ntfs/traces.hpp"

#include <cstring>

#include "ntfs/record.hpp"
#include "ntfs/structures.hpp"

namespace undershelf::ntfs {

namespace {

constexpr std::size_t sector = 512;

ByteVector lsn_of(Bytes bytes) {
    const auto lsn = bytes.subspan(8, 8);
    return {lsn.begin(), lsn.end()};
}

void take_record(Bytes bytes, std::uint64_t at, TraceSink& sink) {
    const auto head = load<FileRecord>(bytes);
    if (!head) return;
    const auto size = head->total.value();
    if (size < sector || size > (64u << 10) || size % sector || head->attr_off.value() >= size) return;
    const auto state =
        head->seq.value() | std::uint64_t{head->flags.value()} << 16 | std::uint64_t{size} << 32;
    sink.trace({record_trace, at, own_number(bytes).value_or(no_own_number), state, lsn_of(bytes)});
}

/// The folder that an index block's first entry says it belongs to.
std::uint64_t folder_of(Bytes block) {
    constexpr std::size_t header = 0x18;  // of the index, after the block's own head
    const auto first = load<little_uint32_buf_t>(block, header);
    if (!first || first->value() < 16 || first->value() > 512) return 0;
    const auto at = header + first->value();
    const auto entry = load<IndexEntry>(block, at);
    const auto name = load<FileName>(block, at + sizeof(IndexEntry));
    return entry && name && entry->key_size.value() >= sizeof(FileName) ? name->home.value() : 0;
}

}  // namespace

void find_traces(const SweepBuffer& buffer, TraceSink& sink) {
    for (std::size_t at = (sector - buffer.offset % sector) % sector;
         at < buffer.owned && at + sector <= buffer.bytes.size(); at += sector) {
        const auto* p = buffer.bytes.data() + at;
        const auto bytes = buffer.bytes.subspan(at, std::min<std::size_t>(1024, buffer.bytes.size() - at));
        if (std::memcmp(p, "FILE", 4) == 0) {
            take_record(bytes, buffer.offset + at, sink);
        } else if (std::memcmp(p, "INDX", 4) == 0) {
            sink.trace({index_trace, buffer.offset + at, load<little_uint64_buf_t>(bytes, 16)->value(),
                        folder_of(bytes), lsn_of(bytes)});
        }
    }
}

}  // namespace undershelf::ntfs
