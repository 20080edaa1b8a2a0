#include "content/media/media_units.hpp"

#include <neaacdec.h>

#include <algorithm>
#include <new>

#include "content/format.hpp"
#include "content/picture/jpeg.hpp"

namespace undershelf::content {

namespace {

class NalUnits final : public UnitCheck {
  public:
    explicit NalUnits(unsigned length_size) : length_size_(length_size) {}

    bool holds(Content& content, std::uint64_t offset, std::uint64_t size, Density& density) override {
        PartOfContent unit(content, offset, size);
        Cursor at(unit);
        while (at.at() < size) {
            const auto length_bytes = at.take(length_size_);
            if (length_bytes.size() < length_size_) return false;
            std::uint64_t length = 0;
            for (const auto b : length_bytes) length = length << 8 | b;
            if (length == 0 || length > size - at.at()) return false;
            if (!read_through(at, length)) return false;
            density.add(length + length_size_);
        }
        return true;
    }

  private:
    /// A NAL unit begins with a bit that is 0. Two zeros are never followed by 0, 1 or 2 in it: writers put
    /// a 3 between.
    static bool read_through(Cursor& at, std::uint64_t length) {
        unsigned zeros = 0;
        for (bool first = true; length > 0; first = false) {
            const auto part =
                at.take(static_cast<std::size_t>(std::min<std::uint64_t>(length, Cursor::window)));
            if (part.empty() || (first && part[0] & 0x80)) return false;
            for (const auto b : part) {
                if (zeros >= 2 && b < 3) return false;
                zeros = b == 0 ? zeros + 1 : 0;
            }
            length -= part.size();
        }
        return true;
    }

    unsigned length_size_;
};

class AacUnits final : public UnitCheck {
  public:
    static std::unique_ptr<AacUnits> with(Bytes setup) {
        std::unique_ptr<AacUnits> out(new AacUnits);
        if (!out->decoder_) throw std::bad_alloc();
        ByteVector copy(setup.begin(), setup.end());
        unsigned long rate = 0;
        unsigned char channels = 0;
        if (copy.empty() ||
            NeAACDecInit2(out->decoder_.get(), copy.data(), copy.size(), &rate, &channels) < 0)
            return nullptr;
        return out;
    }

    bool holds(Content& content, std::uint64_t offset, std::uint64_t size, Density& density) override {
        if (size > most_frame) return false;
        // The decoder looks some bytes ahead.
        frame_.assign(static_cast<std::size_t>(size) + slack, 0);
        if (content.read(offset, MutableBytes(frame_).first(static_cast<std::size_t>(size))) < size)
            return false;
        NeAACDecFrameInfo info{};
        NeAACDecDecode(decoder_.get(), &info, frame_.data(), static_cast<unsigned long>(size));
        density.add_decoded(size);
        // What a frame leaves over is filling.
        return info.error == 0 && info.bytesconsumed <= size;
    }

  private:
    static constexpr std::uint64_t most_frame = 64 << 10;  ///< bytes; 6144 bits a channel at most, with room
    static constexpr std::size_t slack = 64;

    std::unique_ptr<void, decltype(&NeAACDecClose)> decoder_{NeAACDecOpen(), NeAACDecClose};
    ByteVector frame_;
};

class JpegUnits final : public UnitCheck {
  public:
    bool holds(Content& content, std::uint64_t offset, std::uint64_t size, Density& density) override {
        PartOfContent picture(content, offset, size);
        density.add_decoded(size);
        Cursor start(picture);
        return jpeg().recognise(start.peek(16)).sure > 0 && jpeg().check(picture, {}).complete;
    }
};

class UnknownUnits final : public UnitCheck {
  public:
    bool holds(Content& content, std::uint64_t offset, std::uint64_t size, Density& density) override {
        density.add_unseen(size);
        return readable(content, offset, size);
    }
};

}  // namespace

std::unique_ptr<UnitCheck> nal_units(unsigned length_size) {
    return std::make_unique<NalUnits>(length_size);
}
std::unique_ptr<UnitCheck> aac_units(Bytes setup) {
    return AacUnits::with(setup);
}
std::unique_ptr<UnitCheck> jpeg_units() {
    return std::make_unique<JpegUnits>();
}
std::unique_ptr<UnitCheck> unknown_units() {
    return std::make_unique<UnknownUnits>();
}

bool readable(Content& content, std::uint64_t offset, std::uint64_t size) {
    PartOfContent part_of(content, offset, size);
    Cursor at(part_of);
    while (size > 0) {
        const auto part = at.take(static_cast<std::size_t>(std::min<std::uint64_t>(size, Cursor::window)));
        if (part.empty()) return false;
        size -= part.size();
    }
    return true;
}

}  // namespace undershelf::content
