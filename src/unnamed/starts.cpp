#include "unnamed/starts.hpp"

#include <algorithm>

#include "base/print.hpp"
#include "content/formats.hpp"
#include "content/glance.hpp"
#include "content/signature.hpp"
#include "unnamed/plain_text.hpp"

namespace undershelf {

namespace {

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
        const auto first = from(at, signature_bytes);
        // After a text, and on its last line, only what begins like no line is another one.
        const bool breaks_a_line = goes_on && buffer_.bytes[at - 1] != '\n' && begins_a_document(first);
        if (seen == Glance::text && goes_on && !breaks_a_line) return;
        auto start = start_seen(first);
        // A short text may have something else after its sector.
        if (start.sure < sure_enough && seen == Glance::text) start = start_seen(from(at, start_step));
        if (start.sure < sure_enough) return;
        if (is_text(*start.format) && goes_on && !breaks_a_line) return;
        if (start.format->word == "text" && !reads_as_text(first)) return;
        if (start.format->word == "mpeg" && follows_a_pack(at)) return;
        out_.push_back({buffer_.offset + at, start.format->word, Print().add(first).value(), breaks_a_line});
    }

    /// A text reaches up to here.
    bool text_before(std::size_t at) const {
        constexpr std::size_t enough = 64;
        if (at < enough) return false;
        const auto before = buffer_.bytes.subspan(at - enough, enough);
        return may_be_text(before) && reads_as_text(before);
    }

    /// Films are packs, each of which looks like a start; in the first one is a system header (ISO/IEC
    /// 13818-1, 2.5.3.5).
    bool follows_a_pack(std::size_t at) const {
        constexpr std::size_t pack_size = 2048;
        constexpr std::uint8_t system_header[] = {0, 0, 1, 0xBB};
        if (at < pack_size) return false;
        const auto before = buffer_.bytes.subspan(at - pack_size, 4), here = buffer_.bytes.subspan(at, 4);
        if (!std::equal(before.begin(), before.end(), here.begin())) return false;
        const auto head = from(at, 32);
        return std::search(head.begin(), head.end(), std::begin(system_header), std::end(system_header)) ==
               head.end();
    }

    const SweepBuffer& buffer_;
    std::vector<ContentStart> out_;
};

}  // namespace

std::vector<ContentStart> find_starts(const SweepBuffer& buffer) {
    return StartFinder(buffer).run();
}

}  // namespace undershelf
