#include "content/text/xml_start.hpp"

#include <gtest/gtest.h>

#include <string>

namespace undershelf::content {

TEST(XmlStart, IsTakenAsFarAsItGoes) {
    for (const char* text :
         {"<cues/>", " \n<cues scene='1' light=\"warm\"><cue n='2'/></cues>", "<cues><cue>Fox & f", "<cu",
          "<cues a='x",
          "<!-- of act 2 --><?show now?><!DOCTYPE cues [<!ENTITY fox 'Fox'>]><cues>&fox;</cues>",
          "<cues>&amp;&#233;&#xE9;<![CDATA[a < b]]></cues>", "<cues></cues>\x01\x02 what is after it",
          "<svg:svg xmlns:svg='http://x'>", "<\xc3\xa9t\xc3\xa9>", "<cues>caf\xc3"})
        EXPECT_TRUE(begins_well_formed(text)) << text;
}

TEST(XmlStart, IsNotWhereSomethingContradicts) {
    for (const char* text :
         {"cues", "x<cues/>", "<cues><cue></cues>", "</cues>", "<cues a=1>", "<cues a='1' a='2'/>",
          "<cues a='1'b='2'/>", "<cues a='<'/>", "<cues>&nbsp;</cues>", "<cues>&;</cues>", "<1cues/>",
          "<cues><!-- a -- b --></cues>", "<![CDATA[x]]>", "<cues>\x01</cues>",
          "<cues>\xff\xff\xff\xff</cues>", "<cues><!DOCTYPE x></cues>", "< cues/>"})
        EXPECT_FALSE(begins_well_formed(text)) << text;
    EXPECT_TRUE(begins_well_formed("<cues>" + std::string(3000, ' ') + "Fox &am"));
}

}  // namespace undershelf::content
