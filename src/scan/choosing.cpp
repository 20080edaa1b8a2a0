#include "scan/choosing.hpp"

#include <algorithm>

#include "base/batches.hpp"
#include "base/sha256.hpp"
#include "scan/containing.hpp"
#include "scan/pairs_of.hpp"
#include "scan/source_identity.hpp"
#include "volume/content_stream.hpp"

namespace undershelf {

namespace {

IdSet set_of(std::vector<std::int64_t> ids) {
    std::vector<ByteRange> ranges;
    ranges.reserve(ids.size());
    for (const auto id : ids) ranges.push_back({static_cast<std::uint64_t>(id), 1});
    return IdSet(std::move(ranges));
}

/// SHA-256 of a whole content; empty where a byte of it is missing, or the work should end.
std::string sum_of(ContentStream& content, const Progress& progress) {
    constexpr std::size_t step = 1 << 20;
    Sha256 hash;
    ByteVector bytes;
    for (std::uint64_t at = 0; at < content.size(); at += step) {
        bytes.resize(static_cast<std::size_t>(std::min<std::uint64_t>(step, content.size() - at)));
        if (progress.stopped() || !content.read(at, bytes).empty()) return {};
        hash.add(bytes);
    }
    return hash.hex();
}

class Chooser {
  public:
    Chooser(const Shelf& shelf, Selection selection, Progress& progress)
        : shelf_(shelf), progress_(progress) {
        out_.selection = std::move(selection);
    }

    Chosen run(const std::string& source_path) {
        const auto& s = out_.selection;
        if (!s.containing.empty() || s.known || s.not_known) {
            const auto source = open_source_of(shelf_, source_path);
            if (!s.containing.empty()) take_words(*source);
            if (s.known || s.not_known) take_sums(*source);
        }
        if (s.with_pairs) {
            auto alone = s;
            alone.with_pairs = false;
            among(with_pairs(shelf_, alone));
        }
        return std::move(out_);
    }

  private:
    struct Job {
        std::int64_t id = 0;
        std::uint64_t size = 0;
        std::vector<Piece> pieces;
        std::string sum;
    };

    void take_words(const Source& source) {
        const auto found =
            find_containing(source, shelf_, out_.selection, out_.selection.containing, progress_);
        out_.looked_into = found.files;
        out_.unchecked_lost = found.unchecked_lost;
        out_.unchecked_live = found.unchecked_live;
        out_.interrupted = found.interrupted;
        among(set_of({found.entries.begin(), found.entries.end()}));
    }

    void among(IdSet ids) { out_.selection.among = std::make_shared<const IdSet>(std::move(ids)); }

    void take_sums(const Source& source) {
        std::vector<Job> files;
        std::vector<std::int64_t> taken;
        std::uint64_t total = 0, done = 0;
        const bool wants_known = out_.selection.known != nullptr;
        shelf_.for_each(out_.selection, {}, [&](const ShelfEntry& e) {
            const bool readable =
                !e.is_dir && !e.link && e.layout != Layout::none && e.rating.grade != Grade::gone;
            if (readable) {
                files.push_back({e.id, e.size, {}, {}});
                total += e.size;
            } else if (!wants_known) {
                taken.push_back(e.id);  // nobody can say that it is known
            }
            return true;
        });
        progress_.stage("comparing sums");
        progress_.counts_bytes();
        std::size_t next = 0;
        in_order<Job>(
            [&](Job& job) {
                if (next == files.size() || progress_.stopped()) return false;
                job = std::move(files[next++]);
                job.pieces = shelf_.pieces(job.id);
                return true;
            },
            [&](Job& job) {
                ContentStream content(source, std::move(job.pieces), job.size);
                job.sum = sum_of(content, progress_);
            },
            [&](Job&& job) {
                ++out_.looked_into;
                out_.no_sum += job.sum.empty();
                if (is_taken(job.sum)) taken.push_back(job.id);
                progress_.at(done += job.size, total);
            });
        out_.interrupted |= progress_.stopped();
        among(set_of(std::move(taken)));
    }

    bool is_taken(const std::string& sum) const {
        const auto has = [&](const KnownSums& known) {
            return std::binary_search(known.sums.begin(), known.sums.end(), sum);
        };
        const auto& s = out_.selection;
        return !(s.known && !has(*s.known)) && !(s.not_known && has(*s.not_known));
    }

    const Shelf& shelf_;
    Progress& progress_;
    Chosen out_;
};

}  // namespace

Chosen choose(const Shelf& shelf, Selection selection, const std::string& source_path, Progress& progress) {
    if (!selection.needs_a_look()) {
        Chosen out;
        out.selection = std::move(selection);
        return out;
    }
    return Chooser(shelf, std::move(selection), progress).run(source_path);
}

}  // namespace undershelf
