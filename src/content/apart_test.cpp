#include "content/apart.hpp"

#include <gtest/gtest.h>
#include <signal.h>

#include <filesystem>
#include <fstream>
#include <functional>
#include <nlohmann/json.hpp>

#include "base/error.hpp"
#include "content/apart_messages.hpp"
#include "content/formats.hpp"
#include "support/format_cases.hpp"
#include "support/json.hpp"
#include "support/memory_content.hpp"
#include "support/temporary_folder.hpp"

namespace undershelf {

namespace {

using test::dumped;
using test::MemoryContent;
using test::parsed;

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

/// The decoders that this process has started and that have not ended, by their parent's number in /proc. A
/// sanitizer may have started others.
std::vector<pid_t> children() {
    std::vector<pid_t> out;
    for (const auto& entry : std::filesystem::directory_iterator("/proc/self/task")) {
        std::ifstream list(entry.path() / "children");
        for (pid_t pid = 0; list >> pid;) {
            std::string name;
            std::getline(std::ifstream("/proc/" + std::to_string(pid) + "/comm"), name);
            if (name.starts_with("undershelf-deco")) out.push_back(pid);
        }
    }
    return out;
}

void expect_same(const std::optional<Check>& one, const std::optional<Check>& other) {
    ASSERT_EQ(one.has_value(), other.has_value());
    if (!one) return;
    const auto &a = *one, &b = *other;
    EXPECT_EQ(a.format, b.format);
    EXPECT_EQ(a.strength, b.strength);
    EXPECT_EQ(a.complete, b.complete);
    EXPECT_EQ(a.finished, b.finished);
    EXPECT_EQ(a.holds_to, b.holds_to);
    EXPECT_EQ(a.proven_to, b.proven_to);
    EXPECT_EQ(a.cut, b.cut);
    EXPECT_EQ(a.odd_head, b.odd_head);
    EXPECT_EQ(a.loose_end, b.loose_end);
    EXPECT_EQ(a.why, b.why);
    EXPECT_EQ(a.title, b.title);
    EXPECT_EQ(a.details, b.details);
}

void expect_same_inside(DecodersApart& apart, Content& content) {
    const auto check = check_content(content);
    if (!check) return;
    const auto a = apart.inside(content, *format_named(check->format)),
               b = content_inside(content, *format_named(check->format));
    EXPECT_EQ(a.title, b.title);
    EXPECT_EQ(a.details, b.details);
    EXPECT_EQ(a.dates.created, b.dates.created);
    EXPECT_EQ(a.dates.modified, b.dates.modified);
    EXPECT_EQ(a.dates.where, b.dates.where);
    EXPECT_EQ(a.extension, b.extension);
}

void expect_same_text(DecodersApart& apart, Content& content) {
    std::string a, b;
    apart.text(content, [&](std::string_view piece) { return (a += piece).size() > 4096; });
    content_text(content, [&](std::string_view piece) { return (b += piece).size() > 4096; });
    EXPECT_EQ(a, b);
}

}  // namespace

TEST(Apart, SaysTheSameAsTheReaderItself) {
    DecodersApart apart(UNDERSHELF_DECODER);
    for (const auto& form : test::format_cases()) {
        SCOPED_TRACE(form.format);
        auto bytes = form.make();
        MemoryContent whole(bytes);
        expect_same(apart.check(whole, {}), check_content(whole));
        expect_same_inside(apart, whole);
        expect_same_text(apart, whole);
        MemoryContent missing(bytes, bytes.size() / 2);
        expect_same(apart.check(missing, {}), check_content(missing));
        for (std::size_t i = bytes.size() / 2; i < bytes.size(); i += 7) bytes[i] ^= 0x55;
        MemoryContent wrong(bytes);
        expect_same(apart.check(wrong, {}), check_content(wrong));
    }
    EXPECT_EQ(children().size(), 1u);
}

TEST(Apart, AProcessThatDiesLeavesItsCheckUnfinished) {
    DecodersApart apart(UNDERSHELF_DECODER);
    WatchedContent content(test::webp_file(), [] {
        for (const auto pid : children()) ::kill(pid, SIGSEGV);
    });
    const auto check = apart.check(content, {});
    ASSERT_TRUE(check);
    EXPECT_FALSE(check->finished);
    EXPECT_FALSE(check->complete);
    EXPECT_EQ(check->format, "webp");
    // The next one has a process of its own again.
    MemoryContent next(test::tiff_file());
    EXPECT_TRUE(apart.check(next, {})->complete);
}

TEST(Apart, AProcessThatSaysNothingIsEnded) {
    DecodersApart apart(UNDERSHELF_DECODER, {.silence = 1});
    WatchedContent content(test::webp_file(), [] {
        for (const auto pid : children()) ::kill(pid, SIGSTOP);
    });
    EXPECT_FALSE(apart.check(content, {})->finished);
    EXPECT_TRUE(children().empty());
}

#ifndef UNDERSHELF_SANITIZED
TEST(Apart, AProcessThatAsksForTooMuchMemoryIsEnded) {
    DecodersApart apart(UNDERSHELF_DECODER, {.memory = 96 << 20});
    auto bytes = test::webp_file();
    bytes.resize(200 << 20);
    const auto length = bytes.size() - 8;
    for (std::size_t i = 0; i < 4; ++i) bytes[4 + i] = static_cast<std::uint8_t>(length >> (8 * i));
    MemoryContent content(std::move(bytes));
    EXPECT_FALSE(apart.check(content, {})->finished);
}
#endif

TEST(Apart, WhatIsAllOurOwnIsReadHere) {
    DecodersApart apart("/nothing/here");
    const std::string text = "The fox under the bridge.\nAct 1.\n";
    MemoryContent content(ByteVector(text.begin(), text.end()));
    EXPECT_EQ(apart.check(content, {})->format, "text");
}

TEST(Apart, WhatCannotBeIsNoAnswer) {
    Check check;
    check.format = "webp";
    check.why = "it \x1b[31m ends";
    auto good = parsed(content::as_text(check));
    EXPECT_EQ(content::check_in(dumped(good))->why, "it ?[31m ends");
    const auto wrong = [&](const char* key, const nlohmann::json& value) {
        auto bad = good;
        bad[key] = value;
        return !content::check_in(dumped(bad));
    };
    EXPECT_TRUE(wrong("format", "fox"));
    EXPECT_TRUE(wrong("format", std::string(100, 'w')));
    EXPECT_TRUE(wrong("strength", 4));
    EXPECT_TRUE(wrong("strength", "strong"));
    EXPECT_TRUE(wrong("holds_to", nullptr));
    EXPECT_TRUE(wrong("why", std::string(10'000, 'w')));
    EXPECT_TRUE(wrong("title", std::string(10'000, 't')));
    EXPECT_TRUE(
        wrong("details", {{"pixels", "<b>"}, {"camera", ""}, {"seconds", nullptr}, {"pages", nullptr}}));
    EXPECT_TRUE(wrong("details", {{"pixels", ""}, {"camera", ""}, {"seconds", -1}, {"pages", nullptr}}));
    EXPECT_FALSE(content::check_in(dumped(good).substr(1)));
    Inside inside;
    inside.extension = "jpg";
    inside.dates.modified = Timestamp{1, 60};
    good = parsed(content::as_text(inside));
    EXPECT_EQ(content::inside_in(dumped(good))->dates.modified, inside.dates.modified);
    for (const auto& [key, value] :
         std::initializer_list<std::pair<const char*, nlohmann::json>>{{"modified", {1, 5000}},
                                                                       {"modified", {INT64_MAX, 0}},
                                                                       {"extension", "../x"},
                                                                       {"modified", "now"}}) {
        auto bad = good;
        bad[key] = value;
        EXPECT_FALSE(content::inside_in(dumped(bad))) << key << value;
    }
}

TEST(Apart, AProcessThatLiesLeavesItsCheckUnfinished) {
    const test::TemporaryFolder folder;
    // Says what no decoder says, and knows no question.
    const auto liar = folder.write(
        "liar", std::string("#!/bin/sh\nhead -c 24 /dev/zero | tr '\\0' '\\377' >&0\nsleep 1\n"));
    std::filesystem::permissions(liar, std::filesystem::perms::owner_all);
    DecodersApart apart(liar, {.silence = 5});
    MemoryContent content(test::webp_file());
    EXPECT_FALSE(apart.check(content, {})->finished);
}

/// A decoder that asks for no bytes, again and again.
std::string one_that_asks_on(const test::TemporaryFolder& folder, const std::string& and_before) {
    const std::vector<content::Answer> same(4096, {0, 0, content::AnswerKind::wants_bytes});
    folder.write("asked", Bytes(reinterpret_cast<const std::uint8_t*>(same.data()),
                                same.size() * sizeof(content::Answer)));
    const auto liar = folder.write("liar", "#!/bin/sh\n" + and_before + "while cat " + folder.at("asked") +
                                               " >&0; do :; done 2>/dev/null\n");
    std::filesystem::permissions(liar, std::filesystem::perms::owner_all);
    return liar;
}

TEST(Apart, AProcessThatAsksOnAndOnIsEnded) {
    const test::TemporaryFolder folder;
    const auto liar = one_that_asks_on(folder, "exec 3<&0\ncat <&3 >/dev/null &\n");
    DecodersApart apart(liar, {.questions = 10'000});
    MemoryContent content(test::webp_file());
    EXPECT_FALSE(apart.check(content, {})->finished);
}

TEST(Apart, AProcessThatTakesNoAnswersIsEnded) {
    const test::TemporaryFolder folder;
    DecodersApart apart(one_that_asks_on(folder, {}), {.silence = 1, .questions = 1ull << 40});
    MemoryContent content(test::webp_file());
    EXPECT_FALSE(apart.check(content, {})->finished);
}

TEST(Apart, WhatCannotBeStartedIsSaid) {
    DecodersApart apart("/nothing/here");
    MemoryContent content(test::webp_file());
    EXPECT_THROW(apart.check(content, {}), Error);
}

TEST(Apart, TheDecoderIsFoundBesideTheProgram) {
    EXPECT_EQ(std::filesystem::canonical(decoder_beside()), std::filesystem::canonical(UNDERSHELF_DECODER));
}

}  // namespace undershelf
