#include "content/archive/zip_words.hpp"

#include <algorithm>
#include <map>

#include "content/archive/workbook.hpp"
#include "content/archive/zip_directory.hpp"
#include "content/text/markup.hpp"
#include "content/text/tags.hpp"
#include "content/text/xml_tags.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

constexpr std::uint64_t most_bytes = 64 << 20;      ///< of one member's text
constexpr std::uint64_t most_unpacked = 256 << 20;  ///< of all members

bool is_markup(std::string_view name) {
    return name.ends_with(".xml") || name.ends_with(".xhtml") || name.ends_with(".html") ||
           name.ends_with(".htm");
}
/// What documents keep beside their text.
bool is_beside(std::string_view name) {
    for (const std::string_view part :
         {"theme", "styles", "settings", "fontTable", "_rels", "docProps", "[Content_Types]", "manifest",
          "webSettings", "slideLayout", "slideMaster"}) {
        if (name.find(part) != name.npos) return true;
    }
    return false;
}

/// Parts of a document that come before others: its body, then slides, then what is said beside them.
int rank_of(std::string_view name) {
    constexpr std::string_view first[] = {"word/document",    "content.xml",    "ppt/slides/",
                                          "ppt/notesSlides/", "word/footnotes", "word/endnotes",
                                          "word/comments"};
    for (std::size_t i = 0; i < std::size(first); ++i) {
        if (name.starts_with(first[i])) return static_cast<int>(i);
    }
    return static_cast<int>(std::size(first));
}

/// `slide10` after `slide2`.
bool counts_before(std::string_view a, std::string_view b) {
    const auto digits = [](std::string_view text, std::size_t at) {
        const auto end = text.find_first_not_of("0123456789", at);
        return text.substr(at, (end == text.npos ? text.size() : end) - at);
    };
    for (std::size_t i = 0, j = 0;;) {
        if (i >= a.size() || j >= b.size()) return i >= a.size() && j < b.size();
        auto one = digits(a, i), other = digits(b, j);
        i += one.size();
        j += other.size();
        while (one.size() > 1 && one.front() == '0') one.remove_prefix(1);
        while (other.size() > 1 && other.front() == '0') other.remove_prefix(1);
        if (one.size() != other.size()) return one.empty() || (!other.empty() && one.size() < other.size());
        if (one != other) return one < other;
        if (one.empty()) {
            if (a[i] != b[j]) return a[i] < b[j];
            ++i;
            ++j;
        }
    }
}

std::string folder_of(std::string_view path) {
    const auto slash = path.rfind('/');
    return slash == path.npos ? std::string() : std::string(path.substr(0, slash + 1));
}

/// Of a book, the places of its parts in the order in which they are read (EPUB 3.3, 5.7: the spine).
std::map<std::string, std::size_t> spine_of(Content& content,
                                            const std::vector<ZipDirectoryMember>& members) {
    std::map<std::string, std::size_t> out;
    const auto package =
        std::find_if(members.begin(), members.end(), [](const auto& m) { return m.name.ends_with(".opf"); });
    if (package == members.end()) return out;
    constexpr std::uint64_t most_package = 4 << 20;
    std::string text;
    read_zip_member(content, *package, most_package, [&](Bytes bytes) { text += text_of(bytes); });
    std::map<std::string, std::string> items;
    const auto folder = folder_of(package->name);
    for_each_tag(text, [&](const XmlTag& tag) {
        if (tag.name == "item") items.emplace(tag.attribute("id"), folder + tag.attribute("href"));
        if (tag.name == "itemref") {
            if (const auto it = items.find(tag.attribute("idref")); it != items.end())
                out.emplace(it->second, out.size());
        }
        return true;
    });
    return out;
}

std::vector<ZipDirectoryMember> in_reading_order(Content& content) {
    auto out = zip_directory(content);
    const auto spine = spine_of(content, out);
    const auto place = [&](const ZipDirectoryMember& m) {
        const auto it = spine.find(m.name);
        return it == spine.end() ? spine.size() : it->second;
    };
    std::stable_sort(out.begin(), out.end(), [&](const ZipDirectoryMember& a, const ZipDirectoryMember& b) {
        if (place(a) != place(b)) return place(a) < place(b);
        if (rank_of(a.name) != rank_of(b.name)) return rank_of(a.name) < rank_of(b.name);
        // Elsewhere the directory has the writer's own order.
        return rank_of(a.name) == rank_of({}) ? false : counts_before(a.name, b.name);
    });
    return out;
}

}  // namespace

void zip_words(Content& content, const TakeText& take) {
    const auto members = in_reading_order(content);
    Pieces out(take);
    if (is_workbook(members)) {
        workbook_words(content, members, out);
        return out.flush();
    }
    std::uint64_t unpacked = 0;
    for (const auto& member : members) {
        if (out.enough() || unpacked >= most_unpacked) break;
        const bool markup = is_markup(member.name);
        if (is_beside(member.name) ||
            (!markup && !member.name.ends_with(".txt") && !member.name.ends_with(".csv")))
            continue;
        TagStripper tags(out);
        read_zip_member(content, member, most_bytes, [&](Bytes bytes) {
            unpacked += bytes.size();
            if (out.enough()) return;
            markup ? tags.take(text_of(bytes)) : out.add(text_of(bytes));
        });
        out.add("\n");
    }
    out.flush();
}

}  // namespace undershelf::content
