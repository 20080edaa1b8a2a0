#include "unnamed/starts.hpp"

#include <algorithm>

#include "content/characters.hpp"
#include "content/formats.hpp"
#include "content/glance.hpp"
#include "content/signature.hpp"
#include "unnamed/plain_text.hpp"

namespace undershelf {

namespace {

std::uint64_t print_of(Bytes bytes) {
    std::uint64_t hash = 0xCBF29CE484222325ull;  // FNV-1a, eight bytes at a time
    for (std::size_t i = 0; i + 8 <= bytes.size(); i += 8) {
        std::uint64_t word = 0;
        std::copy_n(bytes.begin() + static_cast<std::ptrdiff_t>(i), 8,
                    reinterpret_cast<std::uint8_t*>(&word));
        hash = (hash ^ word) * 0x100000001B3ull;
        hash ^= hash >> 29;
    }
    return hash;
}

/// Texts that begin with words of their own, and may do so behind another text.
constexpr double sure_of_mark = 0.95;

class StartFinder {
  public:
    explicit StartFinder(const SweepBuffer& buffer) : buffer_(buffer) {}

    std::vector<ContentStart> run() {
        const auto into = buffer_.offset % start_step;
        for (std::size_t at = into ? start_step - into : 0; at < buffer_.owned; at += start_step) look(at);
        return std::move(out_);
    }

  private:
    Bytes from(std::size_t at, std::size_t most) const {
        return buffer_.bytes.subspan(at, std::min(most, buffer_.bytes.size() - at));
    }

    void look(std::size_t at) {
        const auto seen = glance(from(at, start_step));
        if (seen == Glance::nothing) return;
        const bool goes_on = text_before(at);
        if (seen == Glance::text && goes_on) return;
        const auto first = from(at, signature_bytes);
        auto start = start_seen(first);
        // A short text may have something else behind its sector.
        if (start.sure < sure_enough && seen == Glance::text) start = start_seen(from(at, start_step));
        if (start.sure < sure_enough) return;
        if (is_text(*start.format) && goes_on && start.sure < sure_of_mark) return;
        if (start.format->word == "text" && !reads_as_text(first)) return;
        if (start.format->word == "mpeg" && follows_a_pack(at)) return;
        out_.push_back({buffer_.offset + at, start.format->word, print_of(first)});
    }

    /// A text reaches up to here.
    bool text_before(std::size_t at) const {
        constexpr std::size_t enough = 64;
        if (at < enough) return false;
        const auto before = buffer_.bytes.subspan(at - enough, enough);
        return may_be_text(before) && reads_as_text(before);
    }

    /// Films are packs of one size, each of which looks like a start (ISO/IEC 13818-1, 2.5.3.3).
    bool follows_a_pack(std::size_t at) const {
        constexpr std::size_t pack_size = 2048;
        if (at < pack_size) return false;
        const auto before = buffer_.bytes.subspan(at - pack_size, 4), here = buffer_.bytes.subspan(at, 4);
        return std::equal(before.begin(), before.end(), here.begin());
    }

    const SweepBuffer& buffer_;
    std::vector<ContentStart> out_;
};

}  // namespace

std::vector<ContentStart> find_starts(const SweepBuffer& buffer) {
    return StartFinder(buffer).run();
}

}  // namespace undershelf
