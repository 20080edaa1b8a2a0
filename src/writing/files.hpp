#pragma once
// The ways in which single files are opened for writing. Every one asks the guard before anything is made.

#include <string>
#include <string_view>

#include "base/file_descriptor.hpp"
#include "writing/source_guard.hpp"

namespace undershelf {

/// After the name of a file that is not complete yet. No name that anybody else gives: what is left of one
/// after a power cut is ours to remove.
constexpr const char* new_suffix = ".undershelf-new";

/// May there be a file already?
enum class There : std::uint8_t {
    must_not,  ///< EEXIST where there is anything, a link included
    may,
    must,
};

/// Opens a regular file for reading and writing. Throws Error(refused) when that could change the source, or
/// when something is there that is no file; else std::system_error.
FileDescriptor open_to_write(const SourceGuard& guard, const std::string& path, There there);

/// A small file that is written again and again while work goes on: whenever the power fails, either the old
/// or the new content is there.
class ReplacedFile {
  public:
    /// Nothing is made yet. Throws Error(refused).
    ReplacedFile(const SourceGuard& guard, std::string path);

    const std::string& path() const { return path_; }
    /// Writes `text` beside it, syncs that, and gives it the name. Throws std::system_error; then nothing is
    /// left of the new one.
    void write(std::string_view text) const;

  private:
    std::string path_;
};

/// Removes a file that was made in vain, and says nothing when that fails.
void remove_quietly(const std::string& path);

}  // namespace undershelf
