#pragma once
// A file that appears under its name only when it is complete, and never in place of another one.

#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <system_error>

#include "base/bytes.hpp"
#include "base/timestamp.hpp"
#include "writing/folder.hpp"

namespace undershelf {

class OutputFile {
  public:
    /// Makes `temporary` in `folder`, which must outlive this, in place of a file that is left there. Throws
    /// std::system_error.
    OutputFile(const Folder& folder, std::string temporary);
    /// Takes the temporary file away unless it was published.
    ~OutputFile();
    OutputFile(const OutputFile&) = delete;
    OutputFile& operator=(const OutputFile&) = delete;

    /// Appends. Long runs of zeros become holes. Throws std::system_error.
    void write(Bytes bytes);
    void write(std::string_view text) {
        write(Bytes(reinterpret_cast<const std::uint8_t*>(text.data()), text.size()));
    }
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
    /// Closes the file and gives it its name in the folder. Throws std::system_error, with EEXIST when the
    /// name is taken.
    void publish(const std::string& name);
    std::uint64_t size() const { return size_; }

  private:
    const Folder& folder_;
    std::string temporary_;
    FileDescriptor fd_;
    std::uint64_t size_ = 0;
    bool ends_in_hole_ = false;
    bool published_ = false;
    MaybeTime modified_, accessed_;
};

/// One file that `write` fills, with the dates that it sets, under a name of its own: nothing is overwritten.
/// Throws Error(refused) where something has the name, or the source could be changed; and std::system_error.
void save_new_file(const SourceGuard& guard, const std::string& path,
                   const std::function<void(OutputFile&)>& write);

/// What went wrong with a file, as the end of a sentence.
std::string in_words(const std::error_code& code);

/// Sets a folder's times, and says nothing when that fails.
void set_folder_times(const Folder& folder, const std::string& relative, const MaybeTime& modified,
                      const MaybeTime& accessed);

}  // namespace undershelf
