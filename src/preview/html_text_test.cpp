#include "preview/html_text.hpp"

#include <gtest/gtest.h>

namespace undershelf {

TEST(HtmlText, IsHarmlessWhateverANameHolds) {
    EXPECT_EQ(html_text(R"(<b>"Odile's" & owl</b>)"), "&lt;b&gt;&quot;Odile&#39;s&quot; &amp; owl&lt;/b&gt;");
    // A change of the writing direction would turn round all after it.
    EXPECT_EQ(html_text("a\u202Eb\x1B"), "a?b?");
}

TEST(HtmlText, HasBytesAsBase64) {
    // RFC 4648, section 10.
    EXPECT_EQ(base64(""), "");
    EXPECT_EQ(base64("f"), "Zg==");
    EXPECT_EQ(base64("fo"), "Zm8=");
    EXPECT_EQ(base64("foobar"), "Zm9vYmFy");
    EXPECT_EQ(policy_hash(""), "'sha256-47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU='");
}

}  // namespace undershelf
