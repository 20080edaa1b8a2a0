#include "source/source.hpp"

#include <fmt/format.h>

#include <cstring>
#include <list>
#include <unordered_map>

#include "base/error.hpp"
#include "source/coverage_file.hpp"
#include "source/unreadable_list.hpp"

namespace undershelf {

namespace {
constexpr std::size_t block_size = 16 << 10;
}

/// Blocks read lately, the least recently used one given up first.
struct Source::Cache {
    struct Block {
        std::uint64_t number;
        ByteVector bytes;
    };
    explicit Cache(std::size_t bytes) : most(std::max<std::size_t>(4, bytes / block_size)) {}

    const ByteVector* find(std::uint64_t number) {
        const auto it = index.find(number);
        if (it == index.end()) return nullptr;
        blocks.splice(blocks.begin(), blocks, it->second);
        return &it->second->bytes;
    }
    const ByteVector& add(std::uint64_t number, ByteVector bytes) {
        if (blocks.size() >= most) {
            index.erase(blocks.back().number);
            blocks.pop_back();
        }
        blocks.push_front({number, std::move(bytes)});
        index[number] = blocks.begin();
        return blocks.front().bytes;
    }

    std::size_t most;
    std::list<Block> blocks;
    std::unordered_map<std::uint64_t, std::list<Block>::iterator> index;
};

Source::Source(std::unique_ptr<ByteDevice> device, std::size_t cache_bytes)
    : device_(std::move(device)), cache_(cache_bytes ? std::make_unique<Cache>(cache_bytes) : nullptr) {
    std::vector<ByteRange> gaps, not_copied;
    for (const auto& gap : device_->gaps()) {
        gaps.push_back(gap.range);
        if (gap.not_copied) not_copied.push_back(gap.range);
    }
    unreadable_ = RangeSet(std::move(gaps));
    not_copied_ = RangeSet(std::move(not_copied));
}
Source::~Source() = default;

std::vector<ByteRange> Source::read(std::uint64_t offset, MutableBytes out) const {
    const auto there = offset >= size() ? 0 : std::min<std::uint64_t>(out.size(), size() - offset);
    const auto inside = out.first(static_cast<std::size_t>(there));
    if (inside.size() < out.size()) std::memset(out.data() + inside.size(), 0, out.size() - inside.size());
    // Big reads gain nothing from the cache and would only push everything else out of it.
    if (!cache_ || inside.size() > 16 * block_size) {
        if (!inside.empty()) read_device(offset, inside);
    } else if (!inside.empty()) {
        read_through_cache(offset, inside);
    }
    std::vector<ByteRange> missing;
    {
        const std::lock_guard lock(mutex_);
        if (!unreadable_.empty()) missing = unreadable_.within({offset, there});
    }
    if (there < out.size()) missing.push_back({offset + there, out.size() - there});
    return missing;
}

ByteVector Source::read_vector(const ByteRange& range) const {
    ByteVector out(static_cast<std::size_t>(range.length));
    read(range.offset, out);
    return out;
}

void Source::read_through_cache(std::uint64_t offset, MutableBytes out) const {
    while (!out.empty()) {
        const auto number = offset / block_size;
        const auto within = static_cast<std::size_t>(offset % block_size);
        const auto n = std::min(out.size(), block_size - within);
        std::unique_lock lock(mutex_);
        const auto* block = cache_->find(number);
        if (!block) {
            lock.unlock();
            const auto start = number * block_size;
            ByteVector bytes(static_cast<std::size_t>(std::min<std::uint64_t>(block_size, size() - start)));
            read_device(start, bytes);
            lock.lock();
            block = cache_->find(number);
            if (!block) block = &cache_->add(number, std::move(bytes));
        }
        std::memcpy(out.data(), block->data() + within, n);
        lock.unlock();
        offset += n;
        out = out.subspan(n);
    }
}

void Source::read_device(std::uint64_t offset, MutableBytes out) const {
    bool known_bad;
    {
        const std::lock_guard lock(mutex_);
        known_bad = !unreadable_.empty() && unreadable_.touches({offset, out.size()});
    }
    if (!known_bad && device_->read_at(offset, out)) return;
    narrow(offset, out);
}

/// Halves a range that failed until single sectors fail; what is known to be bad is not asked for again,
/// because every attempt wears a failing drive.
void Source::narrow(std::uint64_t offset, MutableBytes out) const {
    std::vector<ByteRange> bad;
    {
        const std::lock_guard lock(mutex_);
        bad = unreadable_.within({offset, out.size()});
    }
    if (total_length(bad) == out.size()) {
        std::memset(out.data(), 0, out.size());
        return;
    }
    if (bad.empty() && device_->read_at(offset, out)) return;
    const std::uint64_t sector = sector_size();
    const auto first = offset / sector, last = (offset + out.size() - 1) / sector;
    if (first == last) {
        const std::lock_guard lock(mutex_);
        const auto start = first * sector;
        unreadable_.add({start, std::min(sector, size() - start)});
        std::memset(out.data(), 0, out.size());
        return;
    }
    const auto half = static_cast<std::size_t>((first + (last - first + 1) / 2) * sector - offset);
    narrow(offset, out.first(half));
    narrow(offset + half, out.subspan(half));
}

RangeSet Source::unreadable() const {
    const std::lock_guard lock(mutex_);
    return unreadable_;
}

std::unique_ptr<ByteDevice> open_device(const std::string& path, Access access) {
    if (const auto coverage = coverage_beside(path)) return open_covered_device(path, *coverage, access);
    return is_split_image(path) ? open_split_device(path) : open_file_device(path, access);
}

bool reads_as_zeros(const ByteDevice& device) {
    constexpr std::uint64_t at_a_time = 1 << 20;
    ByteVector bytes(at_a_time);
    for (const auto& range : device.data_ranges()) {
        for (std::uint64_t at = 0; at < range.length; at += at_a_time) {
            const auto n = std::min(at_a_time, range.length - at);
            const auto part = MutableBytes(bytes).first(static_cast<std::size_t>(n));
            if (device.read_at(range.offset + at, part) && !all_zero(part)) return false;
        }
    }
    return true;
}

std::unique_ptr<Source> open_source(const std::string& path, const SourceOptions& options) {
    if (path == "-") {
        throw Error(Trouble::input,
                    "Standard input cannot be a source: volumes are read back and forth. Save it to a file "
                    "and give that file.");
    }
    auto device = open_device(path);
    if (!options.unreadable_list.empty()) {
        device = make_faulty_device(std::move(device), read_unreadable_list(options.unreadable_list));
    }
    if (!options.unreadable.empty()) device = make_faulty_device(std::move(device), options.unreadable);
    return std::make_unique<Source>(std::move(device), options.cache_bytes);
}

}  // namespace undershelf
