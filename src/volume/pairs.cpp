#include "volume/pairs.hpp"

#include <string>

namespace undershelf {

namespace {

struct Role {
    PairRole role;
    std::string_view extensions;
};
/// With spaces around each.
constexpr Role roles[] = {
    {PairRole::raw,
     " 3fr arw cr2 cr3 crw dcr dng erf gpr iiq kdc mrw nef nrw orf pef raf raw rw2 rwl sr2 srf srw x3f "},
    {PairRole::still, " jpg jpeg jpe heic heif hif "},
    {PairRole::film, " mov mp4 m4v mts m2ts avi mpg "},
    // Edits, thumbnails and small copies of films, subtitles, words of songs, parts of a recording.
    {PairRole::sidecar, " xmp aae thm dop pp3 lrv srt sub vtt lrc cue "}};

constexpr unsigned bit(PairRole role) {
    return static_cast<unsigned>(role);
}

}  // namespace

PairRole pair_role(std::string_view ext) {
    const auto word = " " + std::string(ext) + " ";
    for (const auto& r : roles) {
        if (!ext.empty() && r.extensions.find(word) != std::string_view::npos) return r.role;
    }
    return PairRole::other;
}

bool makes_pair(PairRole one, unsigned others) {
    switch (one) {
        case PairRole::raw:
            return others & (bit(PairRole::still) | bit(PairRole::sidecar));
        case PairRole::still:
            return others & (bit(PairRole::raw) | bit(PairRole::film) | bit(PairRole::sidecar));
        case PairRole::film:
            return others & (bit(PairRole::still) | bit(PairRole::sidecar));
        case PairRole::sidecar:
            return others & ~bit(PairRole::sidecar);
        case PairRole::other:
            return others & bit(PairRole::sidecar);
    }
    return false;
}

}  // namespace undershelf
