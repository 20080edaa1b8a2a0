#include "ntfs/record.hpp"

#include <algorithm>

#include "base/text.hpp"
#include "ntfs/structures.hpp"

namespace undershelf::ntfs {

Bytes Attribute::value() const {
    const auto head = load<ResidentHead>(bytes);
    if (!resident || !head) return {};
    const std::size_t from = head->data_off.value(), size = head->data_size.value();
    if (from > bytes.size() || size > bytes.size() - from) return {};
    return bytes.subspan(from, size);
}

std::u16string Attribute::name() const {
    const auto head = load<AttributeHead>(bytes);
    if (!head || head->name_len == 0) return {};
    const std::size_t from = head->name_off.value(), length = head->name_len * std::size_t{2};
    if (from > bytes.size() || length > bytes.size() - from) return {};
    return utf16_units(bytes.subspan(from, length));
}

bool undo_fixups(MutableBytes record, std::uint32_t sector_size) {
    const auto head = load<FileRecord>(record);
    if (!head) return false;
    const std::size_t at = head->fix_off.value(), count = head->fix_num.value();
    if (count < 2 || at % 2 || at + count * 2 > sector_size - 2 || (count - 1) * sector_size > record.size())
        return false;
    bool whole = true;
    for (std::size_t i = 1; i < count; ++i) {
        auto* tail = record.data() + i * sector_size - 2;
        whole &= std::equal(tail, tail + 2, record.data() + at);
        std::copy_n(record.data() + at + i * 2, 2, tail);
    }
    return whole;
}

std::optional<std::uint64_t> own_number(Bytes record) {
    const auto head = load<FileRecord>(record);
    const auto number = load<little_uint32_buf_t>(record, own_number_at);
    if (!head || !number || head->fix_off.value() < own_number_at + sizeof(*number)) return std::nullopt;
    return number->value();
}

Attributes::Attributes(Bytes record) {
    if (const auto head = load<FileRecord>(record)) first_ = Iterator(record, head->attr_off.value());
}

Attributes::Iterator& Attributes::Iterator::operator++() {
    at_ += now_.bytes.size();
    look();
    return *this;
}

void Attributes::Iterator::look() {
    const auto a = load<AttributeHead>(record_, at_);
    const std::size_t size = a ? a->size.value() : 0;
    if (!a || a->type.value() == ATTR_END || size < sizeof(AttributeHead) || size % 8 ||
        size > record_.size() - at_) {
        at_ = end_;
        return;
    }
    now_ = {a->type.value(), a->non_res == 0, record_.subspan(at_, size)};
}

std::uint64_t cluster_total(const std::vector<Run>& runs) {
    std::uint64_t sum = 0;
    for (const auto& r : runs) sum += r.count;
    return sum;
}

std::optional<std::vector<Run>> runs_of(const Attribute& attribute, const Geometry& geometry) {
    return runs_of(attribute, geometry, geometry.clusters);
}

std::optional<std::vector<Run>> runs_of(const Attribute& attribute, const Geometry& geometry,
                                        std::uint64_t clusters) {
    const auto head = load<NonResidentHead>(attribute.bytes);
    if (attribute.resident || !head || head->run_off.value() > attribute.bytes.size()) return std::nullopt;
    std::vector<Run> out;
    std::uint64_t lcn = 0, left = most_clusters(geometry);
    auto rest = attribute.bytes.subspan(head->run_off.value());
    while (!rest.empty() && rest[0] != 0) {
        // The low four bits count the bytes of the length, the high four those of the signed step to the
        // start.
        const std::size_t length_bytes = rest[0] & 15, step_bytes = rest[0] >> 4;
        if (length_bytes == 0 || length_bytes > 8 || step_bytes > 8 ||
            rest.size() < 1 + length_bytes + step_bytes)
            return std::nullopt;
        const auto number = [&](std::size_t from, std::size_t n) {
            std::uint64_t v = 0;
            for (std::size_t i = 0; i < n; ++i) v |= std::uint64_t{rest[from + i]} << 8 * i;
            return v;
        };
        Run run;
        run.count = number(1, length_bytes);
        run.sparse = step_bytes == 0;
        if (!run.sparse) {
            auto step = number(1 + length_bytes, step_bytes);
            if (step_bytes < 8 && step >> (8 * step_bytes - 1)) step |= ~0ull << 8 * step_bytes;
            lcn += step;
            run.lcn = lcn;
            if (lcn >= clusters || run.count > clusters - lcn) return std::nullopt;
        }
        if (run.count == 0 || run.count > left) return std::nullopt;
        left -= run.count;
        out.push_back(run);
        rest = rest.subspan(1 + length_bytes + step_bytes);
    }
    return out;
}

}  // namespace undershelf::ntfs
