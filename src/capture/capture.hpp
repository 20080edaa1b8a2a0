#pragma once
// Copies a source into an image, stepping around what cannot be read. It can be ended at any moment and goes
// on from there; what matters can be copied first.

#include <optional>
#include <string>
#include <vector>

#include "capture/copier.hpp"
#include "capture/passes.hpp"
#include "capture/structures.hpp"
#include "capture/wanted.hpp"

namespace undershelf {

struct CaptureOptions {
    std::string source_path;
    std::string image_path;
    std::string coverage_path = {};      ///< empty: beside the image
    std::string simulation = {};         ///< path of a CSV by which the source fails; empty for none
    std::string reads_list = {};         ///< path of a CSV that gets every read of the source; empty for none
    std::uint64_t part_size = 0;         ///< bytes of each part of the image; 0: one file
    std::vector<ByteRange> ranges = {};  ///< of the source; empty: all of it
    bool metadata_first = false;
    bool metadata_only = false;   ///< and nothing else
    std::string shelf_path = {};  ///< a shelf of this source; empty for none
    /// Only what these files of the shelf need.
    std::optional<Selection> files = {};
    CopyOptions copy = {};
    PassOptions passes = {};
    bool hash = false;  ///< of the whole image, once everything is copied
};

struct CaptureResult {
    std::uint64_t size = 0;    ///< bytes of the source
    std::uint64_t wanted = 0;  ///< bytes of what was asked for
    /// Of what was asked for: bytes, and stretches, by their states.
    std::uint64_t bytes[coverage_states] = {};
    std::uint64_t stretches[coverage_states] = {};
    std::uint64_t image_holds = 0;  ///< bytes of the whole source that are in the image now
    Coverage coverage{0};           ///< of the whole source
    std::uint64_t reads = 0;
    bool interrupted = false;
    std::string lost;                ///< why the source could not be read to the end; empty when it could
    std::vector<std::string> notes;  ///< sentences on what was met
    std::vector<StructureCoverage> structures;
    std::optional<FileCoverage> files;  ///< of the shelf
    std::string sha256;                 ///< of the whole image
    std::vector<std::string> image_files;
    std::string coverage_path;

    std::uint64_t in_state(CoverageState s) const { return bytes[static_cast<std::size_t>(s)]; }
    std::uint64_t in_image() const {
        return in_state(CoverageState::copied) + in_state(CoverageState::zeros);
    }
    bool complete() const { return in_image() == wanted; }
};

/// Throws Error: `refused` when the image would land on the source, is another source's, or finds no room;
/// `input` when the source cannot be opened or a coverage file lies; `output` when the image cannot be
/// written. What was copied until then is kept.
CaptureResult capture(const CaptureOptions& options, Progress& progress);

}  // namespace undershelf
