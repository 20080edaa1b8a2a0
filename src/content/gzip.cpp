// gzip (RFC 1952): members one behind the other, each a deflate stream with the CRC-32 and length of what it
// yields.

#include <zlib.h>

#include "content/inflate.hpp"
#include "content/readers.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

class Gzip final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        // Reserved flags are zero.
        if (!begins_with(first, "\x1f\x8b\x08"sv) || first.size() <= 3 || (first[3] & 0xE0) != 0) return {};
        // How it was packed, and on what system, are among few (RFC 1952, 2.3.1).
        const bool told = first.size() > 9 && (first[8] == 0 || first[8] == 2 || first[8] == 4) &&
                          (first[9] <= 13 || first[9] == 255);
        return {"gzip", told ? 1.0 : 0.95};
    }

    Check check(Content& content, const CheckLimits& limits) const override {
        Check out;
        out.format = "gzip";
        out.strength = Strength::strong;
        Cursor at(content);
        auto output = limits.most_output;
        do {
            const auto start = at.at();
            const auto r = inflate_at(at, Wrapping::gzip, output, nullptr);
            if (r.end == InflateEnd::too_much) {
                out.finished = false;
                return out.fails(at.at(), "it yields more than is looked at");
            }
            // A wrong byte may show only in the sum at the end of the member.
            if (r.end == InflateEnd::wrong_sum) return out.fails(start, "its checksum does not hold");
            if (r.end == InflateEnd::broken)
                return out.fails(r.input_end, "its compressed data make no sense");
            if (r.end == InflateEnd::cut) return out.fails(r.input_end, "its compressed data end early");
            output -= r.output;
            out.proven_to = at.at();
        } while (recognise(at.peek(16)).sure > 0);
        return out.ends(at.at());
    }

    InnerDates dates(Content& content) const override {
        Cursor start(content);
        const auto time = load<boost::endian::little_uint32_buf_t>(start.peek(8), 4);
        return {{}, time_from_unix(time ? time->value() : 0), "that of the file that was packed"};
    }
};

}  // namespace

const FormatReader& gzip() {
    static const Gzip reader;
    return reader;
}

}  // namespace undershelf::content
