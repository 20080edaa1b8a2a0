#include "content/archive/workbook.hpp"

#include <algorithm>
#include <charconv>
#include <map>
#include <string>

#include "content/memory.hpp"
#include "content/text/markup.hpp"
#include "content/text/xml_tags.hpp"

namespace undershelf::content {

namespace {

constexpr std::uint64_t most_member = 32 << 20;  ///< bytes, unpacked, of a part that is read into memory
constexpr std::uint64_t most_memory = 3 * most_member;

std::string part_of(Content& content, const ZipDirectoryMember& member) {
    std::string out;
    read_zip_member(content, member, most_member, [&](Bytes bytes) { out += text_of(bytes); });
    return out;
}

/// The texts of `xl/sharedStrings.xml`, without how they are spoken.
std::vector<std::string> shared_texts(std::string_view xml) {
    std::vector<std::string> out;
    bool spoken = false;
    for_each_tag(xml, [&](const XmlTag& tag) {
        if (tag.name == "si" && !tag.closes) out.emplace_back();
        if (tag.name == "rPh") spoken = !tag.closes && !tag.empty;
        if (tag.name == "t" && !tag.closes && !tag.empty && !spoken && !out.empty())
            out.back() += without_entities(tag.after);
        return true;
    });
    return out;
}

/// `B12` is in column 1; 0 for what is no place.
std::size_t column_of(std::string_view place) {
    std::size_t out = 0;
    for (const char c : place) {
        if (c < 'A' || c > 'Z' || out > 20'000) break;
        out = out * 26 + static_cast<std::size_t>(c - 'A') + 1;
    }
    return out > 0 ? out - 1 : 0;
}

class Rows {
  public:
    Rows(const std::vector<std::string>& texts, Pieces& out) : texts_(texts), out_(out) {}

    bool tag(const XmlTag& tag) {
        if (tag.name == "row") {
            if (tag.closes) out_.add(line_ + "\n");
            line_.clear();
            next_ = 0;
        } else if (tag.name == "c" && !tag.closes) {
            begin_cell(tag);
        } else if ((tag.name == "v" || tag.name == "t") && !tag.closes && !tag.empty) {
            line_ += value(without_entities(tag.after));
        }
        return !out_.enough();
    }

  private:
    void begin_cell(const XmlTag& tag) {
        // Far to the right of the others it is still one tab away.
        constexpr std::size_t most_empty = 16;
        const auto column = std::max(next_, column_of(tag.attribute("r")));
        if (!line_.empty() || column > 0)
            line_.append(
                std::clamp<std::size_t>(column - next_ + (next_ > 0 ? 1 : 0), next_ > 0 ? 1 : 0, most_empty),
                '\t');
        next_ = column + 1;
        shared_ = tag.attribute("t") == "s";
    }
    std::string value(const std::string& text) const {
        if (!shared_) return text;
        std::size_t index = 0;
        const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), index);
        return ec == std::errc{} && index < texts_.size() ? texts_[index] : std::string();
    }

    const std::vector<std::string>& texts_;
    Pieces& out_;
    std::string line_;
    std::size_t next_ = 0;  ///< the column after the last cell
    bool shared_ = false;
};

}  // namespace

bool is_workbook(const std::vector<ZipDirectoryMember>& members) {
    return std::any_of(members.begin(), members.end(),
                       [](const auto& m) { return m.name.starts_with("xl/worksheets/"); });
}

void workbook_words(Content& content, const std::vector<ZipDirectoryMember>& members, Pieces& out) {
    const MemoryClaim memory(most_memory);
    std::vector<std::string> texts;
    std::map<std::pair<std::size_t, std::string>, const ZipDirectoryMember*> sheets;  // sheet2 before sheet10
    for (const auto& member : members) {
        if (member.name == "xl/sharedStrings.xml") texts = shared_texts(part_of(content, member));
        if (member.name.starts_with("xl/worksheets/") && member.name.ends_with(".xml"))
            sheets.emplace(std::pair(member.name.size(), member.name), &member);
    }
    for (const auto& [name, member] : sheets) {
        if (out.enough()) break;
        Rows rows(texts, out);
        for_each_tag(part_of(content, *member), [&](const XmlTag& tag) { return rows.tag(tag); });
        out.add("\n");
    }
}

}  // namespace undershelf::content
