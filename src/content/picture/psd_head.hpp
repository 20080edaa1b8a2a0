#pragma once
// The head of a PSD or PSB file (Adobe Photoshop File Formats Specification, "File header section").

#include <boost/endian/buffers.hpp>
#include <cstdint>

namespace undershelf::content {

struct PsdHead {
    char signature[4];
    boost::endian::big_uint16_buf_t version;  ///< 2 for PSB, whose lengths are longer
    std::uint8_t reserved[6];
    boost::endian::big_uint16_buf_t channels;
    boost::endian::big_uint32_buf_t height, width;  ///< pixels
    boost::endian::big_uint16_buf_t depth, mode;    ///< bits of a channel; how colours are kept
};
static_assert(sizeof(PsdHead) == 26);

}  // namespace undershelf::content
