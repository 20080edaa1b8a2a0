#include "volume/inflate.hpp"

#include <algorithm>
#include <array>
#include <span>

namespace undershelf {

namespace {

/// Something in it cannot be.
struct Damaged {};

/// Bits of a byte come lowest first (RFC 1951, section 3.1.1).
class Bits {
  public:
    explicit Bits(Bytes in) : in_(in) {}

    /// At least so many bits at hand; zeros after the end, which take() does not give out.
    std::uint32_t peek(unsigned count) {
        if (held_ < count) refill();
        return static_cast<std::uint32_t>(bits_ & ((std::uint64_t{1} << count) - 1));
    }
    void drop(unsigned count) {
        bits_ >>= count;
        held_ -= count;
        if (at_ - held_ / 8 > in_.size()) throw Damaged();
    }
    std::uint32_t take(unsigned count) {
        if (count == 0) return 0;
        const auto out = peek(count);
        drop(count);
        return out;
    }
    /// What is left of a byte is passed over; then bytes as they are.
    Bytes bytes(std::size_t count) {
        drop(held_ % 8);
        at_ -= held_ / 8;
        bits_ = held_ = 0;
        if (at_ > in_.size() || count > in_.size() - at_) throw Damaged();
        at_ += count;
        return in_.subspan(at_ - count, count);
    }

  private:
    /// Whole bytes, as many as there is room for.
    void refill() {
        constexpr unsigned room = 56;
        if (at_ + 8 <= in_.size()) {
            boost::endian::little_uint64_buf_t next;
            std::copy_n(in_.begin() + static_cast<std::ptrdiff_t>(at_), 8,
                        reinterpret_cast<std::uint8_t*>(&next));
            const unsigned bytes = (63 - held_) / 8;
            bits_ |= next.value() << held_;
            at_ += bytes;
            held_ += bytes * 8;
            bits_ &= (std::uint64_t{1} << held_) - 1;
            return;
        }
        for (; held_ <= room; held_ += 8, ++at_)
            bits_ |= static_cast<std::uint64_t>(at_ < in_.size() ? in_[at_] : 0) << held_;
    }

    Bytes in_;
    std::size_t at_ = 0;
    std::uint64_t bits_ = 0;
    unsigned held_ = 0;
};

constexpr unsigned longest_code = 15;

/// A code that is told by the lengths of its words (section 3.2.2): short words by a table, longer ones by
/// counting up.
class Code {
  public:
    /// Throws Damaged where more words are told than there can be; and fewer, unless that is allowed:
    /// `one_bit` for a word alone, which has one bit then, or for none (section 3.2.7).
    enum class Fewer : std::uint8_t { no, one_bit, yes };
    void build(std::span<const std::uint8_t> lengths, Fewer fewer) {
        std::array<std::uint16_t, longest_code + 2> first_place{};
        counts_.fill(0);
        for (const auto length : lengths) ++counts_[length];
        counts_[0] = 0;
        std::int32_t left = 1;
        for (unsigned length = 1; length <= longest_code; ++length) {
            left = 2 * left - counts_[length];
            if (left < 0) throw Damaged();
            first_place[length + 1] = static_cast<std::uint16_t>(first_place[length] + counts_[length]);
        }
        const auto words = first_place[longest_code + 1];
        const bool may_be_fewer = fewer == Fewer::yes || (fewer == Fewer::one_bit && words == counts_[1]);
        if (left > 0 && !may_be_fewer) throw Damaged();
        auto place = first_place;
        for (std::size_t symbol = 0; symbol < lengths.size(); ++symbol) {
            if (lengths[symbol]) symbols_[place[lengths[symbol]]++] = static_cast<std::uint16_t>(symbol);
        }
        fill_table();
    }

    unsigned decode(Bits& in) const {
        const auto entry = table_[in.peek(table_bits)];
        if (entry.length) {
            in.drop(entry.length);
            return entry.symbol;
        }
        return decode_long(in);
    }

  private:
    static constexpr unsigned table_bits = 9;
    struct Entry {
        std::uint16_t symbol = 0;
        std::uint8_t length = 0;  ///< of its word; 0 for a longer one, or none
    };

    static unsigned reversed(unsigned word, unsigned length) {
        unsigned out = 0;
        for (; length; --length, word >>= 1) out = out << 1 | (word & 1);
        return out;
    }

    void fill_table() {
        table_.fill({});
        unsigned word = 0, place = 0;
        for (unsigned length = 1; length <= table_bits; ++length, word <<= 1) {
            for (unsigned i = 0; i < counts_[length]; ++i, ++word, ++place) {
                for (auto at = reversed(word, length); at < table_.size(); at += 1u << length)
                    table_[at] = {symbols_[place], static_cast<std::uint8_t>(length)};
            }
        }
    }

    /// Words of one length are numbers one after the other, highest bit first.
    unsigned decode_long(Bits& in) const {
        const auto bits = in.peek(longest_code);
        unsigned word = 0, first = 0, place = 0;
        for (unsigned length = 1; length <= longest_code; ++length) {
            word = word << 1 | (bits >> (length - 1) & 1);
            if (word < first + counts_[length]) {
                in.drop(length);
                return symbols_[place + word - first];
            }
            place += counts_[length];
            first = (first + counts_[length]) << 1;
        }
        throw Damaged();
    }

    std::array<std::uint16_t, longest_code + 1> counts_{};
    std::array<std::uint16_t, 288> symbols_{};
    std::array<Entry, 1u << table_bits> table_{};
};

/// Lengths and distances by their symbols (section 3.2.5): where each begins, and how many bits go on.
constexpr std::array<std::uint16_t, 29> length_base{3,  4,  5,  6,   7,   8,   9,   10,  11, 13,
                                                    15, 17, 19, 23,  27,  31,  35,  43,  51, 59,
                                                    67, 83, 99, 115, 131, 163, 195, 227, 258};
constexpr std::array<std::uint8_t, 29> length_bits{0, 0, 0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 2, 2, 2,
                                                   2, 3, 3, 3, 3, 4, 4, 4, 4, 5, 5, 5, 5, 0};
constexpr std::array<std::uint16_t, 30> distance_base{
    1,   2,   3,   4,   5,   7,    9,    13,   17,   25,   33,   49,   65,    97,    129,
    193, 257, 385, 513, 769, 1025, 1537, 2049, 3073, 4097, 6145, 8193, 12289, 16385, 24577};
constexpr std::array<std::uint8_t, 30> distance_bits{0, 0, 0, 0, 1, 1, 2, 2,  3,  3,  4,  4,  5,  5,  6,
                                                     6, 7, 7, 8, 8, 9, 9, 10, 10, 11, 11, 12, 12, 13, 13};
constexpr unsigned end_of_block = 256;

class Inflating {
  public:
    Inflating(Bits& in, std::size_t length) : in_(in), out_(length) {}

    ByteVector run() {
        for (bool last = false; !last;) {
            last = in_.take(1);
            switch (in_.take(2)) {
                case 0:
                    stored();
                    break;
                case 1:
                    fixed_codes();
                    block();
                    break;
                case 2:
                    told_codes();
                    block();
                    break;
                default:
                    throw Damaged();
            }
        }
        if (at_ != out_.size()) throw Damaged();
        return std::move(out_);
    }

  private:
    /// Section 3.2.4.
    void stored() {
        const auto head = in_.bytes(4);
        const unsigned length = head[0] | head[1] << 8, other = head[2] | head[3] << 8;
        if (length != (~other & 0xFFFF)) throw Damaged();
        const auto bytes = in_.bytes(length);
        check_room(bytes.size());
        std::copy(bytes.begin(), bytes.end(), out_.begin() + static_cast<std::ptrdiff_t>(at_));
        at_ += bytes.size();
    }

    /// Section 3.2.6.
    void fixed_codes() {
        std::array<std::uint8_t, 288> lengths{};
        std::fill(lengths.begin(), lengths.end(), std::uint8_t{8});
        std::fill(lengths.begin() + 144, lengths.begin() + 256, std::uint8_t{9});
        std::fill(lengths.begin() + 256, lengths.begin() + 280, std::uint8_t{7});
        std::array<std::uint8_t, 30> distances{};
        distances.fill(5);
        literals_.build(lengths, Code::Fewer::no);
        distances_.build(distances, Code::Fewer::yes);  // two of its words have no meaning
    }

    /// Section 3.2.7.
    void told_codes() {
        constexpr std::array<std::uint8_t, 19> order{16, 17, 18, 0, 8,  7, 9,  6, 10, 5,
                                                     11, 4,  12, 3, 13, 2, 14, 1, 15};
        const auto literals = in_.take(5) + 257, distances = in_.take(5) + 1, told = in_.take(4) + 4;
        if (literals > 286 || distances > distance_base.size()) throw Damaged();
        std::array<std::uint8_t, 19> of_lengths{};
        for (unsigned i = 0; i < told; ++i) of_lengths[order[i]] = static_cast<std::uint8_t>(in_.take(3));
        Code code;
        code.build(of_lengths, Code::Fewer::no);
        std::array<std::uint8_t, 286 + 30> lengths{};
        for (unsigned at = 0; at < literals + distances;) {
            const auto symbol = code.decode(in_);
            if (symbol < 16) {
                lengths[at++] = static_cast<std::uint8_t>(symbol);
                continue;
            }
            if (symbol == 16 && at == 0) throw Damaged();
            const auto again = symbol == 16 ? lengths[at - 1] : std::uint8_t{0};
            const auto count = symbol == 16   ? 3 + in_.take(2)
                               : symbol == 17 ? 3 + in_.take(3)
                                              : 11 + in_.take(7);
            if (count > literals + distances - at) throw Damaged();
            std::fill_n(lengths.begin() + at, count, again);
            at += count;
        }
        if (lengths[end_of_block] == 0) throw Damaged();
        const std::span all(lengths);
        literals_.build(all.first(literals), Code::Fewer::one_bit);
        distances_.build(all.subspan(literals, distances), Code::Fewer::one_bit);
    }

    void block() {
        for (;;) {
            const auto symbol = literals_.decode(in_);
            if (symbol == end_of_block) return;
            if (symbol < end_of_block) {
                check_room(1);
                out_[at_++] = static_cast<std::uint8_t>(symbol);
                continue;
            }
            copy(symbol - end_of_block - 1);
        }
    }

    void copy(unsigned symbol) {
        if (symbol >= length_base.size()) throw Damaged();
        const std::size_t length = length_base[symbol] + in_.take(length_bits[symbol]);
        const auto far = distances_.decode(in_);
        if (far >= distance_base.size()) throw Damaged();
        const std::size_t distance = distance_base[far] + in_.take(distance_bits[far]);
        if (distance > at_) throw Damaged();
        check_room(length);
        // What is copied may be what was just written.
        for (std::size_t i = 0; i < length; ++i, ++at_) out_[at_] = out_[at_ - distance];
    }

    void check_room(std::size_t more) const {
        if (more > out_.size() - at_) throw Damaged();
    }

    Bits& in_;
    ByteVector out_;
    std::size_t at_ = 0;  ///< up to where it is written
    Code literals_, distances_;
};

/// RFC 1950, section 8.2.
std::uint32_t adler32(Bytes bytes) {
    constexpr std::uint32_t prime = 65521;
    constexpr std::size_t without_overflow = 5552;
    std::uint32_t a = 1, b = 0;
    for (std::size_t at = 0; at < bytes.size();) {
        const auto end = std::min(bytes.size(), at + without_overflow);
        for (; at < end; ++at) b += a += bytes[at];
        a %= prime;
        b %= prime;
    }
    return b << 16 | a;
}

}  // namespace

std::optional<ByteVector> inflate_zlib(Bytes packed, std::size_t length) {
    constexpr unsigned deflated = 8, with_dictionary = 0x20;
    if (packed.size() < 2 || (packed[0] & 15) != deflated || (packed[0] >> 4) > 7 ||
        (packed[0] << 8 | packed[1]) % 31 != 0 || (packed[1] & with_dictionary))
        return std::nullopt;
    try {
        Bits in(packed.subspan(2));
        auto out = Inflating(in, length).run();
        const auto sum = in.bytes(4);
        const auto told = static_cast<std::uint32_t>(sum[0]) << 24 |
                          static_cast<std::uint32_t>(sum[1]) << 16 | static_cast<std::uint32_t>(sum[2]) << 8 |
                          sum[3];
        if (adler32(out) != told) return std::nullopt;
        return out;
    } catch (const Damaged&) {
        return std::nullopt;
    }
}

}  // namespace undershelf
