#pragma once
// Memory that all checks at work share: whoever needs much for a content claims it first, and waits until
// others have given back enough.

#include <condition_variable>
#include <cstdint>
#include <mutex>
#include <new>
#include <optional>

namespace undershelf::content {

/// For all checks of this program together, those in processes of their own as well; bytes.
constexpr std::uint64_t checks_memory = 448ull << 20;
/// What is smaller is not counted. A check takes that much a few times at most.
constexpr std::uint64_t uncounted_memory = 1 << 20;

/// Gives out memory up to a bound, in the order in which it was asked for.
class MemoryKeeper {
  public:
    virtual ~MemoryKeeper() = default;
    /// False for more than there is at all; and where `wait` is false, for more than is left now.
    virtual bool take(std::uint64_t bytes, bool wait) = 0;
    virtual void give(std::uint64_t bytes) = 0;
    /// Holds this process to so many bytes more than it has now, until bound again; nothing for no bound.
    /// Only a process that does nothing but check can be held to anything.
    virtual void bound(std::optional<std::uint64_t>) {}
};

class MemoryPool final : public MemoryKeeper {
  public:
    explicit MemoryPool(std::uint64_t bytes) : all_(bytes), left_(bytes) {}
    bool take(std::uint64_t bytes, bool wait) override;
    void give(std::uint64_t bytes) override;

  private:
    std::mutex mutex_;
    std::condition_variable given_;
    std::uint64_t all_, left_;
    std::uint64_t next_ticket_ = 0, served_ = 0;
};

/// That of this process.
MemoryKeeper& memory_keeper();
/// Puts another one in its place, for a process that checks for another. Not while anything is checked.
class KeptBy {
  public:
    explicit KeptBy(MemoryKeeper& keeper);
    ~KeptBy();
    KeptBy(const KeptBy&) = delete;
    KeptBy& operator=(const KeptBy&) = delete;

  private:
    MemoryKeeper& before_;
};

/// A check that has memory wants more than is left now: two that wait for each other would wait for ever. It
/// begins again, with all of it for itself.
struct MemoryBusy : std::bad_alloc {
    const char* what() const noexcept override { return "others have the memory now"; }
};

/// Bytes that are in use as long as it lives. Throws std::bad_alloc for more than there may be at all.
class MemoryClaim {
  public:
    MemoryClaim() = default;
    explicit MemoryClaim(std::uint64_t bytes) { grow(bytes); }
    ~MemoryClaim();
    MemoryClaim(const MemoryClaim&) = delete;
    MemoryClaim& operator=(const MemoryClaim&) = delete;
    /// To so many bytes in all; never less than before.
    void grow(std::uint64_t bytes);

  private:
    std::uint64_t bytes_ = 0;
};

/// All of it for the checks of this thread, once everybody else has given back theirs.
class AllMemory {
  public:
    AllMemory();
    ~AllMemory();
    AllMemory(const AllMemory&) = delete;
    AllMemory& operator=(const AllMemory&) = delete;
};

/// Has this thread claimed any?
bool holds_memory();

/// Runs a check, and once more with all memory where others had what it wanted. A check within another one
/// that has some leaves that to the outer one, which gives its own back first.
template <class Run>
void with_enough_memory(const Run& run) {
    try {
        return run();
    } catch (const MemoryBusy&) {
        if (holds_memory()) throw;
    }
    const AllMemory all;
    run();
}

/// For decoders that do not say what they need: a usual amount, or, when that was not enough, all there is.
class UsualMemory {
  public:
    explicit UsualMemory(std::uint64_t usual);
    ~UsualMemory();
    UsualMemory(const UsualMemory&) = delete;
    UsualMemory& operator=(const UsualMemory&) = delete;
    /// It was not. Throws MemoryBusy where there is more, else std::bad_alloc.
    [[noreturn]] static void was_too_little();

  private:
    MemoryClaim claim_;
};

}  // namespace undershelf::content
