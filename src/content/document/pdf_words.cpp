// The words of a PDF (ISO 32000-1): strings that its pages show (9.4.3), made characters by what their fonts
// say of their codes (9.10.3). Pages are not followed: every stream that shows text is read, whatever page it
// belongs to.

#include "content/document/pdf_words.hpp"

#include <algorithm>
#include <charconv>
#include <cstdlib>
#include <map>
#include <memory>

#include "content/document/pdf_objects.hpp"
#include "content/titles.hpp"
#include "content/words.hpp"

namespace undershelf::content {

namespace {

using namespace std::string_view_literals;

/// What codes of one font stand for.
struct FontCodes {
    std::map<std::uint32_t, std::string> characters;  ///< UTF-8
    std::size_t width = 1;                            ///< bytes of a code
};

std::uint32_t hex_number(std::string_view digits) {
    std::uint32_t out = 0;
    std::from_chars(digits.data(), digits.data() + std::min<std::size_t>(digits.size(), 8), out, 16);
    return out;
}
std::string hex_bytes(std::string_view digits) {
    std::string out, pair;
    for (const char c : digits) {
        if (std::isxdigit(static_cast<unsigned char>(c))) pair += c;
        if (pair.size() == 2) {
            out += static_cast<char>(hex_number(pair));
            pair.clear();
        }
    }
    if (!pair.empty()) out += static_cast<char>(hex_number(pair + "0"));
    return out;
}
std::string utf16_hex(std::string_view digits) {
    const auto bytes = hex_bytes(digits);
    return from_utf16({reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size()}, true);
}

/// The hexadecimal strings, and brackets, of a stretch of a CMap.
std::vector<std::string_view> hex_strings(std::string_view text) {
    std::vector<std::string_view> out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text[i] == '[' || text[i] == ']') out.push_back(text.substr(i, 1));
        if (text[i] != '<') continue;
        const auto end = text.find('>', i);
        if (end == text.npos) break;
        out.push_back(text.substr(i + 1, end - i - 1));
        i = end;
    }
    return out;
}

/// A ToUnicode CMap (9.10.3): single codes, and ranges of codes.
FontCodes read_codes(std::string_view cmap) {
    FontCodes out;
    constexpr std::size_t most = 1 << 16;
    const auto each = [&](std::string_view from, std::string_view to, const auto& visit) {
        for (auto at = cmap.find(from); at != cmap.npos; at = cmap.find(from, at + 1)) {
            // A hundred may be in one stretch (Adobe Technical Note 5014), with room to spare.
            constexpr std::size_t longest = 64 << 10;
            const auto stretch = cmap.substr(at, longest);
            visit(hex_strings(stretch.substr(0, stretch.find(to))));
            at += std::min(stretch.find(to), stretch.size() - 1);
        }
    };
    each("begincodespacerange", "endcodespacerange", [&](const auto& codes) {
        if (!codes.empty() && codes[0].size() >= 4) out.width = 2;
    });
    each("beginbfchar", "endbfchar", [&](const auto& codes) {
        for (std::size_t i = 0; i + 1 < codes.size() && out.characters.size() < most; i += 2)
            out.characters[hex_number(codes[i])] = utf16_hex(codes[i + 1]);
    });
    each("beginbfrange", "endbfrange", [&](const auto& codes) {
        for (std::size_t i = 0; i + 2 < codes.size();) {
            const auto first = hex_number(codes[i]), last = hex_number(codes[i + 1]);
            i += 2;
            const bool listed = codes[i] == "[";
            const auto start = listed ? 0 : hex_number(codes[i]);
            for (auto code = first; code <= last && code - first < most && out.characters.size() < most;
                 ++code) {
                if (listed && (++i >= codes.size() || codes[i] == "]")) break;
                char digits[16];
                std::snprintf(digits, sizeof digits, "%04X", start + (code - first));
                out.characters[code] = utf16_hex(listed ? codes[i] : std::string_view(digits));
            }
            while (listed && i < codes.size() && codes[i] != "]") ++i;
            ++i;
        }
    });
    return out;
}

class PdfWords {
  public:
    PdfWords(Content& content, Pieces& out) : objects_(content), out_(out) {}

    void run() {
        read_fonts();
        for (const auto& [number, object] : objects_.all()) {
            if (out_.enough()) return;
            const auto has = [&said = object.dictionary](std::string_view key) {
                return said.find(key) != std::string::npos;
            };
            // Pictures, fonts and what tells of the file itself show no text.
            if (object.stream_size == 0 || has("/Image") || has("/Length1") || has("/XRef") ||
                has("/ObjStm") || has("/CIDFontType0C") || has("/Type1C"))
                continue;
            const auto stream = objects_.stream(object);
            if (stream.find("BT") != std::string::npos) show(stream);
        }
    }

  private:
    void read_fonts() {
        std::map<int, std::shared_ptr<const FontCodes>> fonts;
        constexpr std::size_t most_fonts = 256;
        for (const auto& [number, object] : objects_.all()) {
            if (fonts.size() >= most_fonts) break;
            const auto codes = PdfObjects::reference(object.dictionary, "/ToUnicode");
            if (!codes) continue;
            if (const auto* cmap = objects_.find(*codes))
                fonts[number] = std::make_shared<FontCodes>(read_codes(objects_.stream(*cmap)));
        }
        // Names that pages give to fonts: /F1 10 0 R, within a dictionary of fonts.
        constexpr std::size_t most_of_a_name = 8;
        for (const auto& [number, object] : objects_.all()) {
            for (const auto& [name, font] : PdfObjects::references(object.dictionary)) {
                const auto it = fonts.find(font);
                if (it == fonts.end()) continue;
                auto& named = named_[name];
                if (named.size() < most_of_a_name &&
                    std::none_of(named.begin(), named.end(),
                                 [&](const auto& f) { return f->characters == it->second->characters; }))
                    named.push_back(it->second);
            }
        }
    }

    /// Operators of a page: strings, which font they are in, and where lines end.
    void show(std::string_view stream) {
        std::string line;  // codes of the strings since the last move
        std::string name, font;
        double number = 0;
        const auto end_line = [&] {
            give(line, font);
            line.clear();
        };
        for (std::size_t i = 0; i < stream.size() && !out_.enough();) {
            const char c = stream[i];
            if (c == '(') {
                line += pdf_literal(stream, i);
            } else if (c == '<' && i + 1 < stream.size() && stream[i + 1] != '<') {
                const auto end = std::min(stream.find('>', i), stream.size());
                line += hex_bytes(stream.substr(i + 1, end - i - 1));
                i = end + 1;
            } else if (c == '/') {
                const auto end = std::min(stream.find_first_of(" \t\r\n/<>[](){}", i + 1), stream.size());
                name = stream.substr(i, end - i);
                i = end;
            } else if ((c >= '0' && c <= '9') || c == '-' || c == '.') {
                const auto end = std::min(stream.find_first_not_of("0123456789.-", i), stream.size());
                number = std::strtod(
                    std::string(stream.substr(i, std::min<std::size_t>(end - i, 24))).c_str(), nullptr);
                // Within a line of strings a wide gap is a space.
                constexpr double wide = -180;
                if (number < wide && !line.empty()) {
                    end_line();
                    out_.add(" ");
                }
                i = end;
            } else if ((c >= 'A' && c <= 'Z') || (c >= 'a' && c <= 'z')) {
                auto end = i;
                while (end < stream.size() && std::isalpha(static_cast<unsigned char>(stream[end]))) ++end;
                const auto word = stream.substr(i, end - i);
                if (word == "Tf") {
                    end_line();
                    font = name;
                } else if (word == "Td" || word == "TD" || word == "Tm" || word == "ET" || word == "T") {
                    end_line();
                    out_.add(word == "ET" ? "\n" : " ");
                }
                i = end;
            } else {
                ++i;
            }
        }
        end_line();
    }

    void give(const std::string& codes, const std::string& font) {
        if (codes.empty()) return;
        const auto it = named_.find(font);
        if (it == named_.end()) {
            out_.add(from_latin_1({reinterpret_cast<const std::uint8_t*>(codes.data()), codes.size()}));
            return;
        }
        // Several pages may mean several fonts by one name.
        for (const auto& meaning : it->second) {
            std::string text;
            for (std::size_t i = 0; i + meaning->width <= codes.size(); i += meaning->width) {
                std::uint32_t code = static_cast<std::uint8_t>(codes[i]);
                if (meaning->width == 2) code = code << 8 | static_cast<std::uint8_t>(codes[i + 1]);
                if (const auto c = meaning->characters.find(code); c != meaning->characters.end())
                    text += c->second;
            }
            out_.add(text);
            if (it->second.size() > 1) out_.add("\n");
        }
    }

    PdfObjects objects_;
    Pieces& out_;
    std::map<std::string, std::vector<std::shared_ptr<const FontCodes>>> named_;
};

}  // namespace

void pdf_words(Content& content, const TakeText& take) {
    Pieces out(take);
    PdfWords(content, out).run();
    out.flush();
}

}  // namespace undershelf::content
