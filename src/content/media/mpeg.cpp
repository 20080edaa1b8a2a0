// MPEG films: program streams (ISO/IEC 11172-1, 2.4 and 13818-1, 2.5) of packs and packets after start
// codes, transport streams (13818-1, 2.4) of packets of 188 bytes, and bare video (11172-2, 13818-2).

#include <algorithm>
#include <map>
#include <utility>

#include "content/density.hpp"
#include "content/format.hpp"
#include "content/list.hpp"
#include "content/media/media_units.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

enum Code : std::uint8_t {
    picture = 0x00,
    last_slice = 0xAF,
    sequence = 0xB3,
    sequence_end = 0xB7,
    group = 0xB8,
    program_end = 0xB9,
    pack = 0xBA,
    system_header = 0xBB,
    program_map = 0xBC,
    padding = 0xBE,
    private_2 = 0xBF,
    first_audio = 0xC0,
    last_video = 0xEF,
};

std::optional<std::uint8_t> code_in(Bytes bytes) {
    if (bytes.size() < 4 || bytes[0] != 0 || bytes[1] != 0 || bytes[2] != 1) return std::nullopt;
    return bytes[3];
}

/// Length of a pack's head with its filling; 0 when its marker bits are not set.
std::size_t pack_length(Bytes bytes) {
    constexpr std::size_t first_kind = 12, second_kind = 14;
    const auto set = [&](std::size_t at, unsigned bits) { return (bytes[at] & bits) == bits; };
    if (bytes.size() >= first_kind && (bytes[4] & 0xF0) == 0x20)
        return set(4, 1) && set(6, 1) && set(8, 1) && set(9, 0x80) && set(11, 1) ? first_kind : 0;
    if (bytes.size() >= second_kind && (bytes[4] & 0xC0) == 0x40)
        return set(4, 4) && set(6, 4) && set(8, 4) && set(9, 1) && set(12, 3) ? second_kind + (bytes[13] & 7)
                                                                              : 0;
    return 0;
}

/// The clock in a pack's head, in ticks of 90 kHz.
std::uint64_t pack_clock(Bytes bytes, bool second_kind) {
    const auto bits = [&](std::size_t at, unsigned shift, std::uint64_t mask) {
        return bytes[at] >> shift & mask;
    };
    if (second_kind)
        return bits(4, 3, 7) << 30 | bits(4, 0, 3) << 28 | bits(5, 0, 255) << 20 | bits(6, 3, 31) << 15 |
               bits(6, 0, 3) << 13 | bits(7, 0, 255) << 5 | bits(8, 3, 31);
    return bits(4, 1, 7) << 30 | bits(5, 0, 255) << 22 | bits(6, 1, 127) << 15 | bits(7, 0, 255) << 7 |
           bits(8, 1, 127);
}

/// Clocks go on in small steps. Where two films are joined they may leap, and then the new one's head
/// follows.
class Clock {
  public:
    bool goes_on(std::uint64_t now) {
        const auto before = std::exchange(last_, now);
        return !before || ((now - *before) & mask) <= most_step;
    }

  private:
    static constexpr std::uint64_t mask = (std::uint64_t{1} << 33) - 1;
    static constexpr std::uint64_t most_step = 3 * 90'000;  ///< ticks; 0.7 seconds are allowed
    std::optional<std::uint64_t> last_;
};

class ProgramCheck {
  public:
    explicit ProgramCheck(Content& content) : content_(content), at_(content) {}

    Check run() {
        out_.format = "mpeg";
        while (step()) {
        }
        out_.strength = density_.strength();
        return out_;
    }

  private:
    /// A pack's head, a packet or an end code; false after the last.
    bool step() {
        const auto start = at_.at();
        if (start >= content_.size()) return ends(content_.size());
        const auto bytes = at_.peek(longest_head);
        const auto code = code_in(bytes);
        if (!code) return filling(bytes);
        if (*code == program_end) {
            at_.go_to(start + 4);
            // Films are joined end to end.
            return code_in(at_.peek(4)) == pack || ends(start + 4);
        }
        if (*code == pack) {
            const auto length = pack_length(bytes);
            second_kind_ = length > 12;
            if (length == 0) return fails(start, "a pack's head makes no sense");
            const bool leaps = !clock_.goes_on(pack_clock(bytes, second_kind_));
            if (leaps && code_in(bytes.subspan(std::min(length, bytes.size()))) != system_header)
                return fails(start, "its clock leaps");
            density_.add(length);
            at_.go_to(start + length);
            return true;
        }
        if (*code < system_header) return fails(start, "no packet is where one should be");
        return packet(*code, bytes);
    }

    bool packet(std::uint8_t code, Bytes bytes) {
        const auto start = at_.at();
        if (bytes.size() < 6) return cut();
        const std::uint64_t length = 6 + (bytes[4] << 8 | bytes[5]);
        if (length > content_.size() - start) return cut();
        if (second_kind_ && code >= first_audio && code <= last_video && !has_head(bytes, length))
            return fails(start, "a packet's head makes no sense");
        if (!at_.pass(length)) return fails(start, "bytes of it are missing");
        density_.add(length);
        return true;
    }
    /// MPEG-2's packets say how long their heads are.
    static bool has_head(Bytes bytes, std::uint64_t length) {
        return bytes.size() >= 9 && (bytes[6] & 0xC0) == 0x80 && 9u + bytes[8] <= length;
    }

    /// Discs fill sectors with zeros.
    bool filling(Bytes bytes) {
        const auto start = at_.at();
        std::size_t zeros = 0;
        while (zeros < bytes.size() && bytes[zeros] == 0) ++zeros;
        if (zeros < 3) {
            if (bytes.size() < 4 && start + bytes.size() == content_.size()) return cut();
            return fails(start, "no packet is where one should be");
        }
        if (bytes.size() < longest_head && zeros == bytes.size()) return ends(content_.size());
        if (zeros >= most_filling) return fails(start, "it turns into zeros");
        density_.add(zeros);
        // Two of them belong to the start code.
        at_.go_to(start + zeros - (zeros < bytes.size() && bytes[zeros] == 1 ? 2 : 0));
        return true;
    }

    bool ends(std::uint64_t at) {
        out_.ends(at);
        return false;
    }
    bool fails(std::uint64_t at, const char* why) {
        out_.fails(at, why);
        return false;
    }
    bool cut() {
        out_.cut = true;
        return fails(content_.size(), "it ends within a packet");
    }

    static constexpr std::size_t most_filling = 2324;  ///< bytes; a sector of a video disc
    static constexpr std::size_t longest_head = most_filling + 4;
    Content& content_;
    Cursor at_;
    Check out_;
    Density density_;
    Clock clock_;
    bool second_kind_ = false;  ///< MPEG-2
};

/// How the packets of a transport stream lie: with a time code before each, or sums after.
struct TransportGrid {
    std::size_t step = 0, sync = 0;
};
constexpr std::uint8_t sync_byte = 0x47;
constexpr std::size_t transport_packet = 188;

std::optional<TransportGrid> transport_grid(Bytes first) {
    constexpr std::size_t least_packets = 4;
    for (const TransportGrid grid : {TransportGrid{188, 0}, {192, 4}, {204, 0}}) {
        std::size_t packets = 0, at = grid.sync;
        while (at < first.size() && first[at] == sync_byte) {
            ++packets;
            at += grid.step;
        }
        if (at >= first.size() && packets >= least_packets) return grid;
    }
    return std::nullopt;
}

constexpr unsigned has_adaptation = 0x20, has_payload = 0x10;

/// The continuity counters of all streams (2.4.3.3): packets with a payload count on, or come twice.
class Counters {
  public:
    bool goes_on(Bytes packet) {
        constexpr unsigned nothing = 0x1FFF, discontinuity = 0x80;
        const unsigned stream = (packet[1] & 0x1F) << 8 | packet[2];
        const auto now = static_cast<std::uint8_t>(packet[3] & 15);
        if (stream == nothing || !(packet[3] & has_payload)) return true;
        const bool may_leap = (packet[3] & has_adaptation) && packet[4] > 0 && (packet[5] & discontinuity);
        const auto [it, is_new] = last_.try_emplace(stream, now);
        const auto before = std::exchange(it->second, now);
        return is_new || may_leap || now == before || now == ((before + 1) & 15);
    }

  private:
    std::map<unsigned, std::uint8_t> last_;  ///< of thirteen bits
};

Check check_transport(Content& content, const TransportGrid& grid) {
    Check out;
    out.format = "mpeg";
    out.strength = Strength::fair;
    Cursor at(content);
    Counters counters;
    while (at.at() < content.size()) {
        const auto start = at.at();
        const auto packet = at.take(grid.step);
        if (packet.size() < grid.step) {
            out.cut = start + packet.size() == content.size();
            return out.fails(start + packet.size(), "it ends within a packet");
        }
        const auto fields = packet.subspan(grid.sync);
        const auto control = fields[3] & (has_adaptation | has_payload);
        const std::size_t most = control & has_payload ? transport_packet - 6 : transport_packet - 5;
        if (fields[0] != sync_byte || ((control & has_adaptation) && fields[4] > most))
            return out.fails(start, "no packet is where one should be");
        // What comes by air may lack packets; what a camera or a disc has on its grid of 192 does not.
        if (grid.sync > 0 && !counters.goes_on(fields))
            return out.fails(start, "the numbers of its packets do not follow each other");
    }
    return out.ends(content.size());
}

/// Bare video: start codes that video may have, in an order that it may have.
class VideoCheck {
  public:
    Check run(Content& content) {
        out_.format = "mpeg";
        out_.strength = Strength::weak;
        Cursor at(content);
        while (at.at() < content.size()) {
            const auto start = at.at();
            const auto part = at.take(Cursor::window);
            if (part.empty()) return out_.fails(start, "bytes of it are missing");
            for (std::size_t i = 0; i < part.size(); ++i) {
                if (!take(part[i], start + i)) return out_;
            }
        }
        return out_.ends(ended_ ? ended_ : content.size());
    }

  private:
    /// False after the end, or where it is no video any more.
    bool take(std::uint8_t byte, std::uint64_t at) {
        if (zeros_ >= 2 && byte == 1) {
            code_follows_ = true;
            zeros_ = 0;
        } else if (code_follows_) {
            code_follows_ = false;
            return code(byte, at);
        } else if (byte == 0) {
            ++zeros_;
        } else {
            // Three zeros only ever are before a start code, and one of them after the end.
            if (zeros_ >= 3 || ended_) return stops(at - zeros_);
            zeros_ = 0;
        }
        return true;
    }
    bool code(std::uint8_t code, std::uint64_t at) {
        const auto start = at - 3;
        if (code >= program_end || (ended_ && code != sequence)) return stops(start);
        const bool slice = code > picture && code <= last_slice;
        if (slice && last_ <= last_slice && code < last_) {
            out_.fails(start, "parts of a picture are not in order");
            return false;
        }
        last_ = code;
        ended_ = code == sequence_end ? at + 1 : 0;
        return true;
    }
    bool stops(std::uint64_t at) {
        if (ended_)
            out_.ends(ended_);
        else
            out_.fails(at, "it is no video any more");
        return false;
    }

    Check out_;
    std::uint64_t zeros_ = 0, ended_ = 0;  ///< in a row; after an end mark
    std::uint8_t last_ = picture;
    bool code_follows_ = false;
};

bool begins_video(Bytes first) {
    if (code_in(first) != sequence || first.size() < 12) return false;
    const unsigned width = first[4] << 4 | first[5] >> 4, height = (first[5] & 15) << 8 | first[6];
    const unsigned aspect = first[7] >> 4, rate = first[7] & 15;
    constexpr unsigned marker = 0x20;
    return width > 0 && height > 0 && aspect >= 1 && aspect <= 14 && rate >= 1 && rate <= 8 &&
           (first[10] & marker);
}

class Mpeg final : public FormatReader {
  public:
    Recognised recognise(Bytes first) const override {
        if (code_in(first) == pack && pack_length(first) > 0) return {"mpeg", 1.0};
        if (begins_video(first)) return {"mpeg", 0.9};
        return {"mpeg", transport_grid(first) ? 0.95 : 0.0};
    }
    /// Packets with a time code before each are what camcorders write.
    std::string_view extension(Content& content) const override {
        Cursor start(content);
        const auto grid = transport_grid(start.peek(4096));
        return !grid ? "mpg" : grid->sync > 0 ? "m2ts" : "ts";
    }
    Check check(Content& content, const CheckLimits&) const override {
        Cursor start(content);
        const auto first = start.peek(4096);
        if (code_in(first) == pack) return ProgramCheck(content).run();
        const auto grid = transport_grid(first);
        return grid ? check_transport(content, *grid) : VideoCheck().run(content);
    }
};

/// Packets of a transport stream (ISO/IEC 13818-1, 2.4.3.2), the first two.
bool may_be_transport(Bytes first) {
    constexpr std::uint8_t sync = 0x47;
    if (first.size() < 205) return false;
    return (first[0] == sync && (first[188] == sync || first[204] == sync)) ||
           (first[4] == sync && first[196] == sync);
}

constexpr Format rows[] = {
    {.word = "mpeg",
     .name = "MPEG video",
     .kind = Kind::video,
     .extensions = " mpg mpeg vob m2v ts m2ts mts ",
     .shared = " mpg mpeg vob ",
     .family = "mpeg",
     .strength = Strength::fair,
     .delay = 64 * KiB,
     .marks = "\0\0"sv},
};

}  // namespace

FormatRows mpeg_formats() {
    static const Mpeg reader;
    return {rows, &reader, may_be_transport};
}

}  // namespace undershelf::content
