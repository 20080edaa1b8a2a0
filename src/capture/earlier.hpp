#pragma once
// What an earlier capture into the same image left: how far it came, and whether it was of this source.

#include <string>
#include <vector>

#include "source/byte_device.hpp"
#include "source/coverage_file.hpp"

namespace undershelf {

struct CaptureOptions;

class EarlierCapture {
  public:
    /// A fresh record where there was none. Throws Error: `input` for a coverage file that lies or has lost
    /// its image, `refused` when it is of another source.
    EarlierCapture(const CaptureOptions& options, const ByteDevice& device);

    const std::string& path() const { return path_; }  ///< of the coverage file
    CoverageRecord& record() { return record_; }
    bool fresh() const { return fresh_; }  ///< nothing was copied, and there is no image yet
    /// The files of the image.
    std::vector<std::string> names(const CaptureOptions& options) const;

  private:
    void check_same_drive(const CaptureOptions& options, const ByteDevice& device,
                          const std::string& serial) const;
    void check_samples(const CaptureOptions& options, const ByteDevice& device) const;

    std::string path_;
    CoverageRecord record_;
    bool fresh_ = true;
};

}  // namespace undershelf
