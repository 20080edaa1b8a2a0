#pragma once
// EBML (RFC 8794), of which Matroska files are made: elements of an id, a size and a body.

#include "content/content.hpp"

namespace undershelf::content {

struct EbmlHead {
    std::uint32_t id = 0;     ///< with its length marker, as the specification writes it
    std::size_t head = 0;     ///< bytes
    std::uint64_t size = 0;   ///< bytes of the body
    bool open_ended = false;  ///< its size was not known when it was written
};
constexpr std::size_t largest_ebml_head = 12;  ///< bytes

/// A number in 1 to 8 bytes, the first of which tells how many (4).
struct EbmlNumber {
    std::uint64_t value = 0;
    std::size_t bytes = 0;
    bool all_ones = false;
};
std::optional<EbmlNumber> ebml_number(Bytes bytes);

/// The element's head that `bytes` begin with; nothing when none can be told.
std::optional<EbmlHead> ebml_head(Bytes bytes);

/// An unsigned integer element's body.
std::uint64_t ebml_unsigned(Bytes body);

}  // namespace undershelf::content
