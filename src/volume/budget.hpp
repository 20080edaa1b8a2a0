#pragma once
// What reading one volume may cost, whatever its structures claim. An honest volume never meets these bounds:
// its live files have each cluster once, and its lost ones hardly more. A damaged or hostile one is read up
// to them, says so, and is listed with what is known.

#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "volume/model.hpp"

namespace undershelf {

/// Bounds that are the same on every volume.
namespace bound {
constexpr std::uint64_t folder_bytes = 256ull << 20;  ///< of one folder, read
constexpr std::uint64_t search_bytes = 256ull << 20;  ///< of free space looked through for lost structures
constexpr std::uint64_t journal_bytes = 1ull << 30;   ///< of one journal, read
constexpr std::uint64_t kept_bytes = 32ull << 20;     ///< of folders kept in memory between passes
constexpr std::size_t folder_depth = 255;             ///< folders above an entry
constexpr std::size_t path_bytes = 32767;             ///< of a whole path, UTF-8
/// Of the paths of all folders together: so much, and so much more for each folder.
constexpr std::uint64_t all_paths_bytes = 64ull << 20, path_bytes_each = 256;
constexpr std::uint64_t file_size = (1ull << 63) - 1;  ///< no file system has longer ones
}  // namespace bound

class Budget {
  public:
    enum class Cost : std::uint8_t {
        crossing,  ///< clusters followed in chains that somebody else may hold already
        guess,     ///< pieces of guessed layouts
        claim,     ///< source ranges that entries claim
        index,     ///< bytes of folder indexes
    };

    /// `units`: clusters that the source can hold of the volume, whatever its head says; `bytes`: of these.
    Budget(std::uint64_t units, std::uint64_t bytes) : units_(units), bytes_(bytes) {}
    /// For a volume on a source of `source_size` bytes.
    static Budget of(const Volume& volume, std::uint64_t source_size);

    std::uint64_t units() const { return units_; }
    /// Every entry that is found raises what the volume gets.
    void found() { ++entries_; }
    /// Grants as much of `wanted` as is left, and counts it.
    std::uint64_t take(Cost cost, std::uint64_t wanted);
    std::uint64_t left(Cost cost) const;
    bool spent(Cost cost) const { return spent_[static_cast<std::size_t>(cost)]; }
    /// What had to be stopped, in sentences.
    std::vector<std::string> remarks() const;

  private:
    std::uint64_t allowance(Cost cost) const;

    std::uint64_t units_, bytes_, entries_ = 0;
    std::array<std::uint64_t, 4> used_{};
    std::array<bool, 4> spent_{};
};

}  // namespace undershelf
