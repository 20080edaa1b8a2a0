#pragma once
// The SHA-256 of every block of 64 MiB of an image, worked out by all cores while the copying goes on, and
// kept in a CSV file beside the image: `offset,length,sha256,unreadable`.

#include <condition_variable>
#include <deque>
#include <map>
#include <mutex>
#include <optional>
#include <string>
#include <thread>
#include <vector>

#include "capture/image_file.hpp"
#include "source/coverage.hpp"

namespace undershelf {

class BlockHashes {
  public:
    static constexpr std::uint64_t block_size = 64 << 20;
    static std::string path_of(const std::string& image) { return image + ".blocks.csv"; }

    BlockHashes(const ImageFile& image, ReplacedFile file);
    ~BlockHashes();

    /// Takes up what the file has, where it is there; lines that make no sense are left out, and their blocks
    /// hashed again. Throws Error(refused) for a file that is something else.
    void load();
    /// The hash of a block, where it is known.
    std::optional<std::string> known(std::uint64_t block) const;
    /// Bytes of the block have changed: what is known of it is no more.
    void touched(const ByteRange& range);
    /// Hashes the blocks that `range` touches and that `coverage` holds now, several side by side. They are
    /// read back while they are still in memory: this waits while too many are under way.
    void look(const ByteRange& range, const Coverage& coverage);
    /// The same for all blocks of which nothing waits any more: no others will come.
    void look_at_rest(const Coverage& coverage);
    /// Returns when all of them are done.
    void wait();
    /// Writes the file, when anything has changed since it was written last. Throws std::system_error.
    void save();
    const std::string& path() const { return file_.path(); }

  private:
    struct Known {
        std::string sha256;
        std::uint64_t unreadable = 0;  ///< bytes of it that are zeros because they could not be read
    };
    ByteRange range_of(std::uint64_t block) const;
    struct Job {
        std::uint64_t block = 0, unreadable = 0;
        bool zeros = false;
    };
    void start(const Job& job);
    void work();
    std::vector<Job> next();
    void hash(const std::vector<Job>& jobs);
    void keep(const Job& job, const std::string& sha256);

    std::string text() const;

    const ImageFile& image_;
    ReplacedFile file_;
    mutable std::mutex mutex_;
    std::condition_variable more_, done_;
    std::deque<Job> jobs_;
    bool all_known_ = false;  ///< no more jobs will come
    bool ends_ = false;
    std::map<std::uint64_t, Known> known_;
    std::map<std::uint64_t, bool> under_way_;  ///< true: its bytes have changed meanwhile
    bool changed_ = false;
    std::string zeros_;                 ///< the hash of a whole block of zeros, once it is known
    std::vector<std::thread> threads_;  ///< the last member: they use all the others
};

}  // namespace undershelf
