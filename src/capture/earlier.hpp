#pragma once
// What an earlier capture into the same image left: how far it came, and whether it was of this source.

#include <string>
#include <vector>

#include "capture/image_file.hpp"
#include "source/byte_device.hpp"
#include "source/coverage_file.hpp"

namespace undershelf {

struct CaptureOptions;

class EarlierCapture {
  public:
    /// A fresh record where there was none. Throws Error: `input` for a coverage file that makes no sense,
    /// `refused` when it is of another source.
    EarlierCapture(const CaptureOptions& options, const ByteDevice& device);

    CoverageRecord& record() { return record_; }
    bool was_there() const { return was_there_; }  ///< there was a coverage file
    /// May the files of the image be there? Where something was copied, they must.
    There image_files() const;
    /// The files of the image.
    std::vector<std::string> names(const CaptureOptions& options) const;

    /// Holds the image, and what the source still reads of it, against the samples of the coverage. Without
    /// any sample the two are compared where the image has data. Throws Error(refused) when they differ, or
    /// nothing can be compared.
    void check(const CaptureOptions& options, const ImageFile& image, const ByteDevice& device) const;

  private:
    void check_same_drive(const CaptureOptions& options, const ByteDevice& device,
                          const std::string& serial) const;
    void check_samples(const CaptureOptions& options, const ImageFile& image, const ByteDevice& device) const;
    void compare(const CaptureOptions& options, const ImageFile& image, const ByteDevice& device) const;

    CoverageRecord record_;
    bool was_there_ = false;
};

/// Where the coverage of a capture is kept.
std::string coverage_path_of(const CaptureOptions& options);

}  // namespace undershelf
