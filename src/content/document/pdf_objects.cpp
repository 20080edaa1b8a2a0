#include "content/document/pdf_objects.hpp"

#include <algorithm>
#include <charconv>

#include "content/archive/inflate.hpp"

namespace undershelf::content {

namespace {

constexpr std::uint64_t most_bytes = 64 << 20;
constexpr std::size_t most_objects = 1 << 18;
constexpr std::size_t most_dictionary = 64 << 10;

bool is_digit(char c) {
    return c >= '0' && c <= '9';
}
bool is_white(char c) {
    return c == ' ' || c == '\n' || c == '\r' || c == '\t' || c == '\f' || c == 0;
}

/// A number at `at`, after spaces; goes on after it.
std::optional<int> take_number(std::string_view text, std::size_t& at) {
    while (at < text.size() && is_white(text[at])) ++at;
    int out = 0;
    const auto [end, ec] = std::from_chars(text.data() + at, text.data() + text.size(), out);
    if (ec != std::errc{}) return std::nullopt;
    at = static_cast<std::size_t>(end - text.data());
    return out;
}

/// `12 0 R` at `at`.
std::optional<int> take_reference(std::string_view text, std::size_t at) {
    const auto number = take_number(text, at);
    if (!number || !take_number(text, at)) return std::nullopt;
    while (at < text.size() && is_white(text[at])) ++at;
    return at < text.size() && text[at] == 'R' ? number : std::nullopt;
}

}  // namespace

std::string pdf_literal(std::string_view text, std::size_t& at) {
    std::string out;
    int depth = 0;
    auto i = at + 1;
    for (; i < text.size(); ++i) {
        char c = text[i];
        if (c == '\\' && i + 1 < text.size()) {
            c = text[++i];
            if (c >= '0' && c <= '7') {
                int code = 0;
                for (int n = 0; n < 3 && i < text.size() && text[i] >= '0' && text[i] <= '7'; ++n, ++i)
                    code = code * 8 + (text[i] - '0');
                --i;
                c = static_cast<char>(code);
            } else if (c == 'n' || c == 'r' || c == 't') {
                c = ' ';
            }
        } else if (c == '(') {
            ++depth;
        } else if (c == ')' && depth-- == 0) {
            break;
        }
        out += c;
    }
    at = std::min(i + 1, text.size());
    return out;
}

PdfObjects::PdfObjects(Content& content) {
    ByteVector bytes(static_cast<std::size_t>(std::min(content.size(), most_bytes)));
    bytes.resize(content.read(0, bytes));
    bytes_.assign(bytes.begin(), bytes.end());
    find_objects();
    unpack_object_streams();
}

std::size_t PdfObjects::Next::from(std::size_t at) {
    if (!looked_ || at < from_ || at > found_) {
        found_ = bytes_.find(word_, at);
        from_ = at;
        looked_ = true;
    }
    return found_;
}

const PdfObject* PdfObjects::find(int number) const {
    const auto it = objects_.find(number);
    return it == objects_.end() ? nullptr : &it->second;
}

void PdfObjects::find_objects() {
    std::size_t heads = 0;
    for (auto at = bytes_.find(" obj"); at != std::string::npos && heads < most_objects;
         at = bytes_.find(" obj", at + 1)) {
        // Backwards: the generation, a space, the number.
        auto head = at;
        while (head > 0 && is_digit(bytes_[head - 1])) --head;
        if (head == at || head == 0 || !is_white(bytes_[head - 1])) continue;
        auto number = head - 1;
        while (number > 0 && is_digit(bytes_[number - 1])) --number;
        if (number == head - 1) continue;
        read_object(number, at + 4);
        ++heads;
    }
}

void PdfObjects::read_object(std::size_t head, std::size_t behind) {
    auto at = head;
    const auto number = take_number(bytes_, at);
    if (!number) return;
    const auto end = std::min(end_of_object_.from(behind), bytes_.size());
    const auto rest = std::string_view(bytes_).substr(behind, std::min(end - behind, most_dictionary));
    const auto stream = rest.find("stream");
    PdfObject object;
    object.dictionary = rest.substr(0, std::min<std::uint64_t>(stream, kept_left_));
    kept_left_ -= object.dictionary.size();
    if (stream != rest.npos) {
        auto data = behind + stream + 6;
        if (data < bytes_.size() && bytes_[data] == '\r') ++data;
        if (data < bytes_.size() && bytes_[data] == '\n') ++data;
        const auto ends = std::min(end_of_stream_.from(data), bytes_.size());
        object.stream_at = data;
        object.stream_size = ends - std::min<std::size_t>(data, ends);
    }
    // Later revisions are after earlier ones.
    objects_[*number] = std::move(object);
}

std::string PdfObjects::stream(const PdfObject& object) {
    std::string out;
    const auto packed = std::string_view(bytes_).substr(object.stream_at, object.stream_size);
    const auto filter = object.dictionary.find("/Filter");
    if (filter == std::string::npos) return std::string(packed);
    if (object.dictionary.find("/FlateDecode", filter) == std::string::npos || output_left_ == 0 ||
        input_left_ == 0)
        return out;
    BytesAsContent content({reinterpret_cast<const std::uint8_t*>(packed.data()), packed.size()});
    Cursor at(content);
    OutputBound bound(output_left_);
    const auto done = inflate_at(at, Wrapping::zlib, bound, [&](Bytes bytes) {
        out.append(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    });
    output_left_ -= std::min(output_left_, done.output);
    input_left_ -= std::min(input_left_, done.input_end);
    return out;
}

void PdfObjects::unpack_object_streams() {
    std::vector<PdfObject> streams;
    for (const auto& [number, object] : objects_) {
        if (object.dictionary.find("/ObjStm") != std::string::npos) streams.push_back(object);
    }
    for (const auto& s : streams) {
        const auto text = stream(s);
        auto key = s.dictionary.find("/First");
        if (key == std::string::npos) continue;
        key += 6;
        const auto first = take_number(s.dictionary, key);
        if (!first || *first < 0) continue;
        // Pairs of a number and where it begins, then the objects.
        std::size_t at = 0;
        std::vector<std::pair<int, std::size_t>> places;
        while (at < static_cast<std::size_t>(*first) && places.size() < most_objects) {
            const auto number = take_number(text, at), place = take_number(text, at);
            if (!number || !place || *place < 0) break;
            places.emplace_back(*number, static_cast<std::size_t>(*first) + static_cast<std::size_t>(*place));
        }
        for (std::size_t i = 0; i < places.size() && objects_.size() < most_objects; ++i) {
            const auto [number, from] = places[i];
            const auto to = i + 1 < places.size() ? places[i + 1].second : text.size();
            if (from >= text.size() || to <= from) continue;
            const auto size = std::min<std::uint64_t>({to - from, most_dictionary, kept_left_});
            kept_left_ -= size;
            objects_[number] = {text.substr(from, static_cast<std::size_t>(size)), 0, 0};
        }
    }
}

std::optional<int> PdfObjects::reference(std::string_view dictionary, std::string_view key) {
    const auto at = dictionary.find(key);
    return at == dictionary.npos ? std::nullopt : take_reference(dictionary, at + key.size());
}

std::vector<std::pair<std::string, int>> PdfObjects::references(std::string_view dictionary) {
    std::vector<std::pair<std::string, int>> out;
    for (auto at = dictionary.find('/'); at != dictionary.npos; at = dictionary.find('/', at + 1)) {
        const auto end = dictionary.find_first_of(" \t\r\n/<>[]()", at + 1);
        if (end == dictionary.npos) break;
        if (const auto number = take_reference(dictionary, end))
            out.emplace_back(dictionary.substr(at, end - at), *number);
    }
    return out;
}

}  // namespace undershelf::content
