#include "content/memory.hpp"

#include <algorithm>

namespace undershelf::content {

namespace {

MemoryPool pool(checks_memory);
MemoryKeeper* keeper = &pool;

/// Of this thread.
thread_local std::uint64_t held = 0;
thread_local bool has_all = false;

}  // namespace

bool MemoryPool::take(std::uint64_t bytes, bool wait) {
    std::unique_lock lock(mutex_);
    if (bytes > all_) return false;
    if (wait) {
        const auto ticket = next_ticket_++;
        given_.wait(lock, [&] { return served_ == ticket && left_ >= bytes; });
        ++served_;
        given_.notify_all();
    } else if (left_ < bytes) {
        return false;
    }
    left_ -= bytes;
    return true;
}

void MemoryPool::give(std::uint64_t bytes) {
    const std::lock_guard lock(mutex_);
    left_ += bytes;
    given_.notify_all();
}

MemoryKeeper& memory_keeper() {
    return *keeper;
}

KeptBy::KeptBy(MemoryKeeper& other) : before_(*keeper) {
    keeper = &other;
}

KeptBy::~KeptBy() {
    keeper = &before_;
}

bool holds_memory() {
    return held > 0;
}

void MemoryClaim::grow(std::uint64_t bytes) {
    if (bytes <= bytes_ || bytes < uncounted_memory) return;
    const auto more = bytes - bytes_;
    if (more > checks_memory || held > checks_memory - more) throw std::bad_alloc();
    if (!has_all && !keeper->take(more, held == 0)) {
        if (held == 0) throw std::bad_alloc();
        throw MemoryBusy();
    }
    held += more;
    bytes_ = bytes;
}

MemoryClaim::~MemoryClaim() {
    held -= bytes_;
    if (!has_all && bytes_) keeper->give(bytes_);
}

AllMemory::AllMemory() {
    if (!keeper->take(checks_memory, true)) throw std::bad_alloc();
    has_all = true;
}

AllMemory::~AllMemory() {
    has_all = false;
    keeper->give(checks_memory);
}

UsualMemory::UsualMemory(std::uint64_t usual) : claim_(has_all ? checks_memory - held : usual) {
    keeper->bound(has_all ? checks_memory : usual);
}

UsualMemory::~UsualMemory() {
    keeper->bound(std::nullopt);
}

void UsualMemory::was_too_little() {
    if (has_all) throw std::bad_alloc();
    throw MemoryBusy();
}

}  // namespace undershelf::content
