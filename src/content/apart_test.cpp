#include "content/apart.hpp"

#include <gtest/gtest.h>
#include <signal.h>

#include <filesystem>
#include <fstream>
#include <functional>

#include "base/error.hpp"
#include "content/formats.hpp"
#include "support/memory_content.hpp"

namespace undershelf {

namespace {

using test::MemoryContent;

/// Something happens at its first read.
class WatchedContent final : public Content {
  public:
    WatchedContent(ByteVector bytes, std::function<void()> at_read)
        : content_(std::move(bytes)), at_read_(std::move(at_read)) {}
    std::uint64_t size() const override { return content_.size(); }
    std::size_t read(std::uint64_t offset, MutableBytes out) override {
        at_read_();
        return content_.read(offset, out);
    }

  private:
    MemoryContent content_;
    std::function<void()> at_read_;
};

/// The processes that this one has started and that have not ended, by their parent's number in /proc.
std::vector<pid_t> children() {
    std::vector<pid_t> out;
    for (const auto& entry : std::filesystem::directory_iterator("/proc/self/task")) {
        std::ifstream list(entry.path() / "children");
        for (pid_t pid = 0; list >> pid;) out.push_back(pid);
    }
    return out;
}

void expect_same(const Check& a, const Check& b) {
    EXPECT_EQ(a.format, b.format);
    EXPECT_EQ(a.strength, b.strength) << a.format;
    EXPECT_EQ(a.complete, b.complete) << a.format;
    EXPECT_EQ(a.finished, b.finished) << a.format;
    EXPECT_EQ(a.holds_to, b.holds_to) << a.format;
    EXPECT_EQ(a.proven_to, b.proven_to) << a.format;
    EXPECT_EQ(a.cut, b.cut) << a.format;
    EXPECT_EQ(a.odd_head, b.odd_head) << a.format;
    EXPECT_EQ(a.loose_end, b.loose_end) << a.format;
    EXPECT_EQ(a.why, b.why) << a.format;
}

}  // namespace

TEST(Apart, SaysTheSameAsTheReaderItself) {
    DecodersApart apart(UNDERSHELF_PROGRAM);
    for (auto bytes : {test::webp_file(), test::tiff_file(), test::seven_zip_file(), test::cab_file(),
                       test::mp4_file(), test::matroska_file(true)}) {
        MemoryContent whole(bytes);
        expect_same(apart.check(whole, {}), *check_content(whole));
        MemoryContent missing(bytes, bytes.size() / 2);
        expect_same(apart.check(missing, {}), *check_content(missing));
        for (std::size_t i = bytes.size() / 2; i < bytes.size(); i += 7) bytes[i] ^= 0x55;
        MemoryContent wrong(bytes);
        expect_same(apart.check(wrong, {}), *check_content(wrong));
    }
    EXPECT_EQ(children().size(), 1u);
}

TEST(Apart, AProcessThatDiesLeavesItsCheckUnfinished) {
    DecodersApart apart(UNDERSHELF_PROGRAM);
    WatchedContent content(test::webp_file(), [] {
        for (const auto pid : children()) ::kill(pid, SIGSEGV);
    });
    const auto check = apart.check(content, {});
    EXPECT_FALSE(check.finished);
    EXPECT_FALSE(check.complete);
    EXPECT_EQ(check.format, "webp");
    // The next one has a process of its own again.
    MemoryContent next(test::tiff_file());
    EXPECT_TRUE(apart.check(next, {}).complete);
}

TEST(Apart, AProcessThatSaysNothingIsEnded) {
    DecodersApart apart(UNDERSHELF_PROGRAM, {.silence = 1});
    WatchedContent content(test::webp_file(), [] {
        for (const auto pid : children()) ::kill(pid, SIGSTOP);
    });
    EXPECT_FALSE(apart.check(content, {}).finished);
    EXPECT_TRUE(children().empty());
}

#ifndef UNDERSHELF_SANITIZED
TEST(Apart, AProcessThatAsksForTooMuchMemoryIsEnded) {
    DecodersApart apart(UNDERSHELF_PROGRAM, {.memory = 96 << 20});
    auto bytes = test::webp_file();
    bytes.resize(200 << 20);
    const auto length = bytes.size() - 8;
    for (std::size_t i = 0; i < 4; ++i) bytes[4 + i] = static_cast<std::uint8_t>(length >> (8 * i));
    MemoryContent content(std::move(bytes));
    EXPECT_FALSE(apart.check(content, {}).finished);
}
#endif

TEST(Apart, WhatCannotBeStartedIsSaid) {
    DecodersApart apart("/nothing/here");
    MemoryContent content(test::webp_file());
    EXPECT_THROW(apart.check(content, {}), Error);
}

}  // namespace undershelf
