#include "capture/block_hashes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <thread>

#include "base/error.hpp"
#include "base/sha256.hpp"
#include "base/sha256_lanes.hpp"
#include "source/csv_lines.hpp"

namespace undershelf {

namespace {
constexpr std::string_view header = "offset,length,sha256,unreadable";
constexpr std::size_t at_a_time = 64 << 10;  ///< bytes of each block
/// With fewer blocks than this side by side is no quicker than one after the other.
constexpr std::size_t worth_lanes = 4;

bool is_sha256(const std::string& text) {
    return text.size() == 64 && text.find_first_not_of("0123456789abcdef") == std::string::npos;
}

unsigned cores() {
    return std::clamp(std::thread::hardware_concurrency(), 1u, 4u);
}
}  // namespace

BlockHashes::BlockHashes(const ImageFile& image, ReplacedFile file) : image_(image), file_(std::move(file)) {
    for (unsigned i = 0; i < cores(); ++i) threads_.emplace_back([this] { work(); });
}

BlockHashes::~BlockHashes() {
    {
        const std::lock_guard lock(mutex_);
        jobs_.clear();
        ends_ = true;
    }
    more_.notify_all();
    for (auto& t : threads_) t.join();
}

ByteRange BlockHashes::range_of(std::uint64_t block) const {
    const auto from = block * block_size;
    return {from, std::min(block_size, image_.size() - from)};
}

void BlockHashes::load() {
    std::error_code ec;
    if (!std::filesystem::exists(file_.path(), ec)) return;
    const auto file = read_csv(file_.path(), "The hashes of blocks");
    if (file.header != header)
        throw Error(
            Trouble::refused,
            fmt::format("{} is not a list of hashes of an image. It is not written over. Move it away.",
                        file_.path()));
    for (const auto& row : file.rows) {
        if (row.fields.size() != 4) continue;
        const auto range = parse_range(row.fields[0], row.fields[1]);
        const auto unreadable = parse_bytes(row.fields[3]);
        if (!range || !unreadable || range->offset % block_size || range->offset >= image_.size()) continue;
        const auto block = range->offset / block_size;
        if (*range == range_of(block) && is_sha256(row.fields[2]))
            known_[block] = {row.fields[2], *unreadable};
    }
}

void BlockHashes::touched(const ByteRange& range) {
    const std::lock_guard lock(mutex_);
    for (auto block = range.offset / block_size; block * block_size < range.end(); ++block) {
        changed_ |= known_.erase(block) > 0;
        if (const auto it = under_way_.find(block); it != under_way_.end()) it->second = true;
    }
}

void BlockHashes::look(const ByteRange& range, const Coverage& coverage) {
    for (auto block = range.offset / block_size; block * block_size < range.end(); ++block) {
        if (!coverage.holds(range_of(block))) continue;
        const auto stretches = coverage.within(range_of(block));
        start({block, 0, stretches.size() == 1 && stretches.front().state == CoverageState::zeros});
    }
}

void BlockHashes::look_at_rest(const Coverage& coverage) {
    for (std::uint64_t block = 0; block * block_size < image_.size(); ++block) {
        std::uint64_t waits = 0, unreadable = 0;
        const auto stretches = coverage.within(range_of(block));
        for (const auto& s : stretches) {
            if (s.state == CoverageState::unreadable) unreadable += s.range.length;
            if (s.state == CoverageState::waiting || s.state == CoverageState::leapt) waits += s.range.length;
        }
        if (waits == 0)
            start({block, unreadable,
                   stretches.size() == 1 && stretches.front().state == CoverageState::zeros});
    }
    const std::lock_guard lock(mutex_);
    all_known_ = true;
    more_.notify_all();
}

void BlockHashes::wait() {
    std::unique_lock lock(mutex_);
    done_.wait(lock, [&] { return under_way_.empty(); });
}

void BlockHashes::start(const Job& job) {
    std::unique_lock lock(mutex_);
    if (known_.count(job.block) || under_way_.count(job.block)) return;
    if (job.zeros && !zeros_.empty() && range_of(job.block).length == block_size) {
        known_[job.block] = {zeros_, 0};
        changed_ = true;
        return;
    }
    done_.wait(lock, [&] { return under_way_.size() < (cores() + 1) * Sha256Lanes::lanes; });
    under_way_[job.block] = false;
    jobs_.push_back(job);
    more_.notify_one();
}

/// What one thread does next: as many blocks of full length as go side by side, or one. Empty when there is
/// nothing to wait for.
std::vector<BlockHashes::Job> BlockHashes::next() {
    std::vector<Job> out;
    std::unique_lock lock(mutex_);
    more_.wait(lock,
               [&] { return ends_ || jobs_.size() >= Sha256Lanes::lanes || (all_known_ && !jobs_.empty()); });
    if (ends_) return out;
    const auto full = [&](const Job& job) { return range_of(job.block).length == block_size; };
    const auto count = static_cast<std::size_t>(std::count_if(jobs_.begin(), jobs_.end(), full));
    const auto most = count >= worth_lanes ? Sha256Lanes::lanes : 1;
    for (auto it = jobs_.begin(); it != jobs_.end() && out.size() < most;) {
        if (most > 1 && !full(*it)) {
            ++it;
            continue;
        }
        out.push_back(*it);
        it = jobs_.erase(it);
    }
    return out;
}

void BlockHashes::work() {
    for (auto jobs = next(); !jobs.empty(); jobs = next()) hash(jobs);
}

void BlockHashes::hash(const std::vector<Job>& jobs) {
    std::vector<ByteVector> bytes(jobs.size(), ByteVector(at_a_time));
    const auto length = range_of(jobs.front().block).length;
    Sha256Lanes together;
    Sha256 alone;
    bool whole = true;
    for (std::uint64_t at = 0; whole && at < length; at += at_a_time) {
        const auto n = static_cast<std::size_t>(std::min<std::uint64_t>(at_a_time, length - at));
        std::array<const std::uint8_t*, Sha256Lanes::lanes> parts;
        // Lanes without a block of their own do the first one's once more.
        parts.fill(bytes.front().data());
        for (std::size_t i = 0; i < jobs.size(); ++i) {
            whole &= image_.read(range_of(jobs[i].block).offset + at, MutableBytes(bytes[i]).first(n));
            parts[i] = bytes[i].data();
        }
        if (jobs.size() == 1) {
            alone.add(Bytes(bytes.front()).first(n));
        } else {
            together.add(parts, n);
        }
    }
    const auto hashes =
        jobs.size() == 1 ? std::array<std::string, Sha256Lanes::lanes>{alone.hex()} : together.hex();
    for (std::size_t i = 0; i < jobs.size(); ++i) keep(jobs[i], whole ? hashes[i] : "");
}

/// Without a hash: the block could not be read back.
void BlockHashes::keep(const Job& job, const std::string& sha256) {
    const std::lock_guard lock(mutex_);
    const bool changed_meanwhile = under_way_[job.block];
    under_way_.erase(job.block);
    if (!sha256.empty() && !changed_meanwhile) {
        known_[job.block] = {sha256, job.unreadable};
        if (job.zeros && range_of(job.block).length == block_size) zeros_ = sha256;
        changed_ = true;
    }
    done_.notify_all();
}

std::optional<std::string> BlockHashes::known(std::uint64_t block) const {
    const std::lock_guard lock(mutex_);
    const auto it = known_.find(block);
    return it == known_.end() ? std::nullopt : std::optional(it->second.sha256);
}

std::string BlockHashes::text() const {
    auto out = fmt::format("{}\n", header);
    for (const auto& [block, known] : known_) {
        const auto range = range_of(block);
        fmt::format_to(std::back_inserter(out), "{},{},{},{}\n", range.offset, range.length, known.sha256,
                       known.unreadable);
    }
    return out;
}

void BlockHashes::save() {
    std::string out;
    {
        const std::lock_guard lock(mutex_);
        if (!std::exchange(changed_, false)) return;
        out = text();
    }
    try {
        file_.write(out);
    } catch (const std::system_error&) {
        const std::lock_guard lock(mutex_);
        changed_ = true;
        throw;
    }
}

}  // namespace undershelf
