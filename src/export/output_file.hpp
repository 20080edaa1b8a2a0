#pragma once
// A file that appears under its name only when it is complete, and never in place of another one.

#include <cstdint>
#include <string>
#include <system_error>

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
    /// Throws std::system_error when the destination takes no file of `size` bytes.
    void try_size(std::uint64_t size);
    /// What was written is on the drive when this returns. Throws std::system_error.
    void sync();
    /// Gives it its length and dates and closes it. Throws std::system_error.
    void close();
    /// Leaves the closed file under its temporary name.
    void keep() { published_ = true; }
    /// Closes the file and gives it its name. Throws std::system_error, with EEXIST when the name is taken.
    void publish(const std::string& path);
    std::uint64_t size() const { return size_; }

  private:
    std::string temporary_;
    int fd_ = -1;
    std::uint64_t size_ = 0;
    bool ends_in_hole_ = false;
    bool published_ = false;
    MaybeTime modified_, accessed_;
};

/// Throws std::system_error, with EEXIST when `to` is there.
void rename_without_replacing(const std::string& from, const std::string& to);
/// What went wrong with a file, as the end of a sentence.
std::string in_words(const std::error_code& code);

/// Creates a file with this content under its final name in one step; `folder` takes the temporary one.
void write_small_file(const std::string& path, const std::string& content);
/// Sets a folder's times.
void set_path_times(const std::string& path, const MaybeTime& modified, const MaybeTime& accessed);

}  // namespace undershelf
