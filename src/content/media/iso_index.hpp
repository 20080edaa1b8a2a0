#pragma once
// The index of an ISO base media or QuickTime file: where each track's samples are (ISO/IEC 14496-12, 8.5
// to 8.8). A `moov` box tells of those in the file as a whole, each `moof` of those in a fragment.

#include <functional>
#include <map>
#include <memory>

#include "content/media/iso_boxes.hpp"
#include "content/media/media_units.hpp"

namespace undershelf::content {

/// An index that contradicts itself.
struct IndexWrong {
    std::size_t at = 0;  ///< offset in the `moov` or `moof` box's body
    const char* why = "";
};

struct IsoSample {
    std::uint64_t offset = 0, size = 0;  ///< bytes, in the file
    bool single = true;                  ///< false: several samples of one size, one after the other
};
/// Returns false to stop.
using TakeSample = std::function<bool(const IsoSample&)>;

/// What fragments inherit (`trex`, `tfhd`).
struct FragmentDefaults {
    std::uint32_t sample_size = 0;
};

class IsoTrack {
  public:
    /// Of a `trak` box. Throws IndexWrong.
    IsoTrack(const Box& trak);

    std::uint32_t id() const { return id_; }
    std::uint32_t handler() const { return handler_; }  ///< `vide`, `soun`, ...
    std::size_t tables_at() const { return tables_at_; }
    /// Boxes of it that tell where its samples are are missing; the others are as they should be.
    bool untold() const { return untold_; }
    /// The check that fits its codec, with a state of its own.
    std::unique_ptr<UnitCheck> unit_check() const;
    /// In the order of the file's chunks. Throws IndexWrong; costs no more than the tables' bytes.
    void for_each_sample(const TakeSample& take) const;

  private:
    struct ChunkRun {
        std::uint32_t first_chunk, samples;
    };

    /// False where a box that tells of its samples is missing.
    bool read_media(const Box& mdia);
    bool read_tables(const Boxes& stbl);
    void read_description(const Box& stsd);
    void read_sizes(const Boxes& stbl);
    std::uint64_t chunk_offset(std::size_t chunk) const;
    std::uint64_t sample_size(std::uint64_t sample) const;
    bool take_chunk(std::uint64_t offset, std::uint64_t first, std::uint32_t count,
                    const TakeSample& take) const;

    std::uint32_t id_ = 0, handler_ = 0, codec_ = 0;
    std::size_t tables_at_ = 0;
    bool untold_ = false;
    bool elsewhere_ = false;  ///< its data are in another file
    Bytes setup_;             ///< the sample description's body
    Bytes sizes_;             ///< of `stsz` or `stz2`
    unsigned size_bits_ = 32;
    std::uint64_t constant_size_ = 0;   ///< bytes a sample
    std::uint64_t constant_group_ = 1;  ///< samples in so many bytes, where QuickTime packs them
    std::uint64_t samples_ = 0;
    std::vector<ChunkRun> runs_;
    Bytes offsets_;
    bool wide_offsets_ = false;
};

struct IsoIndex {
    std::vector<IsoTrack> tracks;
    std::map<std::uint32_t, FragmentDefaults> defaults;  ///< by track id

    /// Of a `moov` box's body, which must outlive it. Throws IndexWrong.
    explicit IsoIndex(Bytes moov);
};

/// The samples of a `moof` box that is at `moof_at`, `body` its body. Throws IndexWrong.
void for_each_fragment_sample(Bytes body, std::uint64_t moof_at, const IsoIndex& index,
                              const std::function<bool(std::uint32_t track, const IsoSample&)>& take);

}  // namespace undershelf::content
