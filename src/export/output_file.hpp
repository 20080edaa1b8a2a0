#pragma once
// A file that appears under its name only when it is complete, and never in place of another one.

#include <cstdint>
#include <string>

#include "base/bytes.hpp"
#include "base/timestamp.hpp"

namespace undershelf {

class OutputFile {
  public:
    /// Opens `temporary` for writing. Throws std::system_error.
    explicit OutputFile(std::string temporary);
    /// Takes the temporary file away unless it was published.
    ~OutputFile();
    OutputFile(const OutputFile&) = delete;
    OutputFile& operator=(const OutputFile&) = delete;

    /// Appends. Long runs of zeros become holes. Throws std::system_error.
    void write(Bytes bytes);
    /// The dates the published file gets; without them, now.
    void set_times(const MaybeTime& modified, const MaybeTime& accessed) {
        modified_ = modified;
        accessed_ = accessed;
    }
    /// Gives the file its name. Throws std::system_error, with EEXIST when the name is taken.
    void publish(const std::string& path);
    std::uint64_t size() const { return size_; }

  private:
    std::string temporary_;
    int fd_ = -1;
    std::uint64_t size_ = 0;
    bool published_ = false;
    MaybeTime modified_, accessed_;
};

/// Creates a file with this content under its final name in one step; `folder` takes the temporary one.
void write_small_file(const std::string& path, const std::string& content);
/// Sets a folder's times.
void set_path_times(const std::string& path, const MaybeTime& modified, const MaybeTime& accessed);

}  // namespace undershelf
