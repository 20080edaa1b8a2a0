#include "content/archive/inflate.hpp"

#include <zlib.h>

#include <new>
#include <string_view>

namespace undershelf::content {

namespace {

/// zlib's state, freed whatever happens.
class Stream {
  public:
    explicit Stream(Wrapping wrapping) {
        const int bits = wrapping == Wrapping::raw    ? -MAX_WBITS
                         : wrapping == Wrapping::zlib ? MAX_WBITS
                                                      : MAX_WBITS + 16;
        if (inflateInit2(&z, bits) != Z_OK) throw std::bad_alloc();
    }
    ~Stream() { inflateEnd(&z); }
    Stream(const Stream&) = delete;
    Stream& operator=(const Stream&) = delete;
    z_stream z{};
};

}  // namespace

Inflated inflate_at(Cursor& at, Wrapping wrapping, OutputBound& bound,
                    const std::function<void(Bytes)>& take) {
    Stream stream(wrapping);
    auto& z = stream.z;
    Inflated out;
    ByteVector room(64 << 10);
    for (;;) {
        const auto input = at.peek(Cursor::window);
        z.next_in = const_cast<Bytef*>(input.data());
        z.avail_in = static_cast<uInt>(input.size());
        z.next_out = room.data();
        z.avail_out = static_cast<uInt>(room.size());
        const int result = inflate(&z, Z_NO_FLUSH);
        at.go_to(at.at() + input.size() - z.avail_in);
        out.input_end = at.at();
        const auto yield = room.size() - z.avail_out;
        out.output += yield;
        if (take && yield) take(Bytes(room).first(yield));
        if (result == Z_STREAM_END) return out;
        if (!bound.add(yield, at.at())) {
            out.end = InflateEnd::too_much;
            return out;
        }
        if (result == Z_DATA_ERROR || result == Z_NEED_DICT) {
            const std::string_view why = z.msg ? z.msg : "";
            const bool sum = why == "incorrect data check" || why == "incorrect length check";
            out.end = sum ? InflateEnd::wrong_sum : InflateEnd::broken;
            return out;
        }
        if (result != Z_OK && result != Z_BUF_ERROR) throw std::bad_alloc();
        if (input.empty() && yield == 0) {
            out.end = InflateEnd::cut;
            return out;
        }
    }
}

}  // namespace undershelf::content
