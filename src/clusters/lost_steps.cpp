#include "clusters/lost_steps.hpp"

#include <algorithm>
#include <numeric>

#include "base/text.hpp"
#include "content/signature.hpp"

namespace undershelf::clusters {

namespace {
/// Longer ones are no extensions that anything is known of.
constexpr std::size_t longest_extension = 16;
/// Lost files that one lost file steps over, at most.
constexpr int most_stepped = 64;
}  // namespace

void LostSteps::add(const Entry& e, Cluster start, std::int64_t written, const LostLayout* layout) {
    auto ext = extension_of(e.name);
    if (ext.size() > longest_extension) ext.clear();
    const auto [it, fresh] = numbers_.emplace(ext, static_cast<std::uint32_t>(extensions_.size()));
    if (fresh) extensions_.push_back(std::move(ext));
    files_.push_back({e.key, e.is_dir ? 0 : e.size, written, start, it->second, layout, Start::unseen});
}

void LostSteps::add_guessed(const Entry& e, const LostLayout& layout, Cluster start, std::int64_t written) {
    add(e, start, written, &layout);
}

void LostSteps::add_known(const Entry& e, const std::vector<Run>& runs, std::int64_t written) {
    if (runs.empty()) return;
    add(e, runs.front().first, written, nullptr);
    if (runs.size() > 1 || e.is_dir) known_runs_.emplace(e.key, runs);
}

void LostSteps::settle(Budget& budget, const Progress& progress, const std::function<void(Found&&)>& found) {
    std::sort(files_.begin(), files_.end(), [](const File& a, const File& b) {
        return std::tie(a.start, a.key) < std::tie(b.start, b.key);
    });
    looks_left_ = 64 * files_.size() + 1024;
    std::vector<Index> by_date(files_.size());
    std::iota(by_date.begin(), by_date.end(), Index{0});
    std::stable_sort(by_date.begin(), by_date.end(),
                     [&](Index a, Index b) { return files_[a].written < files_[b].written; });
    for (const auto i : by_date) {
        if (progress.stopped() || budget.spent(Budget::Cost::guess)) return;
        const auto& file = files_[i];
        const auto wanted = grid_.clusters_for(file.size);
        if (!file.layout || file.written == 0 || wanted < 2) continue;
        std::vector<Run> avoid;
        LostLayout::Guess guess;
        int stepped = 0;
        for (;; ++stepped) {
            guess = file.layout->guess(file.start, wanted, file.written,
                                       std::max<std::uint64_t>(1, budget.left(Budget::Cost::guess)), avoid);
            budget.take(Budget::Cost::guess, guess.runs.size());
            const auto* met = stepped < most_stepped ? first_met(guess.runs, file) : nullptr;
            if (!met) break;
            const auto runs = runs_of(*met);
            avoid.insert(avoid.end(), runs.begin(), runs.end());
            std::sort(avoid.begin(), avoid.end(),
                      [](const Run& a, const Run& b) { return a.first < b.first; });
        }
        if (stepped == 0 || guess.cut) continue;
        known_runs_[file.key] = guess.runs;
        found({file.key, std::move(guess.runs), static_cast<std::uint64_t>(stepped)});
    }
}

const LostSteps::File* LostSteps::first_met(const std::vector<Run>& runs, const File& file) {
    for (const auto& run : runs) {
        auto it = std::lower_bound(files_.begin(), files_.end(), run.first,
                                   [](const File& f, Cluster c) { return f.start < c; });
        for (; it != files_.end() && it->start < run.end() && looks_left_ > 0; ++it) {
            --looks_left_;
            const bool older = it->written != 0 && file.written - it->written > date_resolution;
            if (it->start != file.start && older && stands(*it, file)) return &*it;
        }
    }
    return nullptr;
}

/// Has the older file's start its own bytes still? A text where the younger file is none is its own, too.
bool LostSteps::stands(File& older, const File& file) {
    if (older.seen == Start::unseen) older.seen = look_at(older);
    return older.seen == Start::own || (older.seen == Start::text && !is_text(file));
}

LostSteps::Start LostSteps::look_at(const File& file) const {
    if (file.size == 0) return Start::own;  // a folder is read only where its clusters say whose they are
    switch (compare_with_extension(first_bytes(file), extensions_[file.ext]).agreement) {
        case Agreement::agrees:
            return Start::own;
        case Agreement::weakly:
            return ends_as_text(file) ? Start::text : Start::other;
        default:
            return Start::other;
    }
}

/// What begins with characters by chance goes on as something else. Looked at are the last bytes of its last
/// run.
bool LostSteps::ends_as_text(const File& file) const {
    const auto runs = runs_of(file);
    if (runs.empty()) return false;
    const auto& run = runs.back();
    const auto end = grid_.offset(run.end() - 1) + (file.size - 1) % grid_.cluster_size + 1;
    const auto length = std::min<std::uint64_t>(end - grid_.offset(run.first), signature_bytes);
    const auto bytes = source_.read_vector({end - length, length});
    // The first character may be cut (UTF-8: up to three bytes that go on).
    std::size_t cut = 0;
    while (cut < 3 && cut < bytes.size() && (bytes[cut] & 0xC0) == 0x80) ++cut;
    return is_text_start(Bytes(bytes).subspan(cut)) || is_text_start(bytes);
}

bool LostSteps::is_text(const File& file) const {
    return is_text_start(first_bytes(file));
}

std::vector<Run> LostSteps::runs_of(const File& file) const {
    if (const auto it = known_runs_.find(file.key); it != known_runs_.end()) return it->second;
    const auto wanted = std::max<std::uint64_t>(1, grid_.clusters_for(file.size));
    if (file.layout) return file.layout->guess(file.start, wanted, file.written, 1024).runs;
    return {{file.start, static_cast<std::uint32_t>(std::min(wanted, grid_.end() - file.start))}};
}

ByteVector LostSteps::first_bytes(const File& file) const {
    const auto n = std::min<std::uint64_t>({file.size, grid_.cluster_size, signature_bytes});
    return source_.read_vector({grid_.offset(file.start), n});
}

}  // namespace undershelf::clusters
