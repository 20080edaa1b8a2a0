#include "content/media/ebml.hpp"

#include <bit>

namespace undershelf::content {

std::optional<EbmlNumber> ebml_number(Bytes bytes) {
    if (bytes.empty() || bytes[0] == 0) return std::nullopt;
    EbmlNumber out;
    out.bytes = static_cast<std::size_t>(std::countl_zero(bytes[0])) + 1;
    if (bytes.size() < out.bytes) return std::nullopt;
    out.value = bytes[0] & (0xFFu >> out.bytes);
    for (std::size_t i = 1; i < out.bytes; ++i) out.value = out.value << 8 | bytes[i];
    out.all_ones = out.value == (1ull << (7 * out.bytes)) - 1;
    return out;
}

std::optional<EbmlHead> ebml_head(Bytes bytes) {
    const auto id = ebml_number(bytes);
    if (!id || id->bytes > 4) return std::nullopt;
    const auto size = ebml_number(bytes.subspan(id->bytes));
    if (!size) return std::nullopt;
    EbmlHead out;
    for (std::size_t i = 0; i < id->bytes; ++i) out.id = out.id << 8 | bytes[i];
    out.head = id->bytes + size->bytes;
    out.size = size->value;
    out.open_ended = size->all_ones;
    return out;
}

std::uint64_t ebml_unsigned(Bytes body) {
    std::uint64_t out = 0;
    for (const auto b : body.first(std::min<std::size_t>(8, body.size()))) out = out << 8 | b;
    return out;
}

}  // namespace undershelf::content
