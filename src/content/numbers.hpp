#pragma once
// Numbers in heads.

#include "base/bytes.hpp"

namespace undershelf::content {

/// Of a buffer type of Boost.Endian; 0 where it is not there as a whole.
template <class Number>
std::uint64_t number_at(Bytes bytes, std::size_t at) {
    const auto n = load<Number>(bytes, at);
    return n ? n->value() : 0;
}

}  // namespace undershelf::content
