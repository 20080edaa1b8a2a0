#pragma once
// A list of pieces as one readable stream of bytes. Whoever rates, looks at or exports content reads it here,
// and never asks which file system it came from.

#include "source/source.hpp"
#include "volume/model.hpp"

namespace undershelf {

class ContentStream {
  public:
    /// `pieces` ascending; what lies between and after them up to `size` is missing. Keeps references to
    /// neither.
    ContentStream(const Source& source, std::vector<Piece> pieces, std::uint64_t size);

    std::uint64_t size() const { return size_; }
    /// Fills `out` from `offset` in the file; at most size() - offset bytes. Returns the missing ranges of
    /// the file, ascending; they are zeros in `out`.
    std::vector<ByteRange> read(std::uint64_t offset, MutableBytes out);
    /// The first bytes, at most `most`.
    ByteVector first(std::size_t most);

  private:
    void read_piece(const Piece& piece, std::uint64_t offset, MutableBytes out,
                    std::vector<ByteRange>& missing);
    void unpack(const Piece& piece);

    const Source& source_;
    std::vector<Piece> pieces_;
    std::uint64_t size_;
    // The packed piece unpacked last, since streams are read in steps smaller than a piece.
    const Piece* unpacked_ = nullptr;
    ByteVector unpacked_bytes_;
    bool unpacked_whole_ = false;
};

}  // namespace undershelf
