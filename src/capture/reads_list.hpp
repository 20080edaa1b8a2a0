#pragma once
// Every read of a source, written down: for training, and for whoever wants to see what a drive was asked
// for.

#include <memory>
#include <string>

#include "source/byte_device.hpp"
#include "writing/source_guard.hpp"

namespace undershelf {

/// `inner`, with a line in the CSV file at `path` for each read: `offset,length,read`, all bytes. Throws
/// Error(output) when the file cannot be made, Error(refused) when it is there or could change the source.
std::unique_ptr<ByteDevice> make_listed_device(std::unique_ptr<ByteDevice> inner, const SourceGuard& guard,
                                               const std::string& path);

}  // namespace undershelf
