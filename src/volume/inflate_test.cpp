#include "volume/inflate.hpp"

#include <gtest/gtest.h>
#include <zlib.h>

#include <random>
#include <string>

namespace undershelf {

namespace {

ByteVector packed(const ByteVector& bytes, int level, int strategy = Z_DEFAULT_STRATEGY) {
    z_stream stream{};
    deflateInit2(&stream, level, Z_DEFLATED, MAX_WBITS, 8, strategy);
    ByteVector out(deflateBound(&stream, bytes.size()) + 64);
    stream.next_in = const_cast<std::uint8_t*>(bytes.data());
    stream.avail_in = static_cast<uInt>(bytes.size());
    stream.next_out = out.data();
    stream.avail_out = static_cast<uInt>(out.size());
    deflate(&stream, Z_FINISH);
    out.resize(stream.total_out);
    deflateEnd(&stream);
    return out;
}

/// Texts, noise, runs, and what only the ends of codes describe.
std::vector<ByteVector> samples() {
    std::mt19937 random(7);
    std::vector<ByteVector> out{{}, {42}, ByteVector(70'000, 'x')};
    std::string text;
    for (int i = 0; text.size() < 100'000; ++i) text += "act " + std::to_string(random() % 9000) + ", fox; ";
    out.emplace_back(text.begin(), text.end());
    ByteVector noise(66'000);
    for (auto& b : noise) b = static_cast<std::uint8_t>(random());
    out.push_back(noise);
    ByteVector uneven;  // words of all lengths up to the longest
    for (int i = 0; i < 18; ++i)
        uneven.insert(uneven.end(), std::size_t{1} << i, static_cast<std::uint8_t>(i * 11));
    std::shuffle(uneven.begin(), uneven.end(), random);
    out.push_back(uneven);
    return out;
}

/// As the library that everybody has.
bool others_take(const ByteVector& bytes, std::size_t length) {
    ByteVector out(length + 1);
    auto got = static_cast<uLongf>(length);
    return uncompress(out.data(), &got, bytes.data(), bytes.size()) == Z_OK && got == length;
}

}  // namespace

TEST(Inflate, UndoesWhatWasPackedInAnyWay) {
    for (const auto& bytes : samples()) {
        for (const int level : {0, 1, 6, 9}) {
            for (const int strategy : {Z_DEFAULT_STRATEGY, Z_HUFFMAN_ONLY, Z_RLE, Z_FIXED}) {
                auto in = packed(bytes, level, strategy);
                EXPECT_EQ(inflate_zlib(in, bytes.size()), bytes)
                    << bytes.size() << " " << level << " " << strategy;
                in.push_back(0);  // what is after it does not count
                EXPECT_EQ(inflate_zlib(in, bytes.size()), bytes);
            }
        }
    }
}

TEST(Inflate, TakesNoOtherLengthAndNothingCut) {
    const auto bytes = samples()[3];
    const auto in = packed(bytes, 6);
    EXPECT_FALSE(inflate_zlib(in, bytes.size() - 1));
    EXPECT_FALSE(inflate_zlib(in, bytes.size() + 1));
    for (std::size_t length = 0; length < in.size(); length += 101)
        EXPECT_FALSE(inflate_zlib(Bytes(in).first(length), bytes.size())) << length;
    EXPECT_FALSE(inflate_zlib(Bytes(in).first(in.size() - 1), bytes.size()));
}

TEST(Inflate, AgreesOnWhatIsDamaged) {
    std::mt19937 random(3);
    auto bytes = samples()[3];
    bytes.resize(3000);
    int taken = 0;
    for (const int strategy : {Z_DEFAULT_STRATEGY, Z_FIXED}) {
        const auto good = packed(bytes, 6, strategy);
        for (int i = 0; i < 1500; ++i) {
            auto bad = good;
            bad[random() % std::min<std::size_t>(bad.size(), i % 2 ? bad.size() : 90)] ^=
                static_cast<std::uint8_t>(1u << (random() % 8));
            const bool ours = inflate_zlib(bad, bytes.size()).has_value();
            EXPECT_EQ(ours, others_take(bad, bytes.size()));
            taken += ours;
        }
    }
    EXPECT_LT(taken, 150);
}

}  // namespace undershelf
