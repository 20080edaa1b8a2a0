#include "content/archive/zip_directory.hpp"

#include <algorithm>

#include "content/archive/inflate.hpp"
#include "content/archive/zip_structures.hpp"
#include "content/format.hpp"
#include "content/memory.hpp"

namespace undershelf::content {

namespace {

/// The last end record's place, which a comment of up to 64 KiB may follow.
std::optional<EndRecord> end_record(Content& content) {
    constexpr std::uint64_t longest = 22 + 0xFFFF;
    const auto from = content.size() - std::min(content.size(), longest);
    ByteVector tail(static_cast<std::size_t>(content.size() - from));
    tail.resize(content.read(from, tail));
    const auto text = text_of(tail);
    const auto at = text.rfind(end_mark);
    return at == std::string_view::npos ? std::nullopt : load<EndRecord>(tail, at + end_mark.size());
}

}  // namespace

std::vector<ZipDirectoryMember> zip_directory(Content& content) {
    constexpr std::uint64_t most_bytes = 16 << 20;
    std::vector<ZipDirectoryMember> out;
    const auto end = end_record(content);
    if (!end || end->directory_size.value() > most_bytes) return out;
    // What is listed takes about twice as much again.
    const MemoryClaim memory(3ull * end->directory_size.value());
    ByteVector bytes(end->directory_size.value());
    bytes.resize(content.read(end->directory_offset.value(), bytes));
    for (auto rest = Bytes(bytes);;) {
        const auto head = load<DirectoryHead>(rest, 4);
        constexpr std::size_t head_size = 4 + sizeof(DirectoryHead);
        if (!head || load<little_uint32_buf_t>(rest)->value() != 0x02014B50) break;
        const std::size_t name = head->name_length.value(),
                          more = head->extra_length.value() + std::size_t{head->comment_length.value()};
        if (rest.size() < head_size + name + more) break;
        const auto text = rest.subspan(head_size, name);
        out.push_back({{text.begin(), text.end()},
                       head->method.value(),
                       head->time.value(),
                       head->date.value(),
                       head->compressed_size.value(),
                       head->size.value(),
                       head->offset.value()});
        rest = rest.subspan(head_size + name + more);
    }
    return out;
}

void read_zip_member(Content& content, const ZipDirectoryMember& member, std::uint64_t most,
                     const std::function<void(Bytes)>& take) {
    Cursor at(content, member.offset + 4);
    const auto head = at.take_structure<LocalHead>();
    if (!head) return;
    at.go_to(at.at() + head->name_length.value() + head->extra_length.value());
    if (member.method == deflated) {
        OutputBound bound(most);
        inflate_at(at, Wrapping::raw, bound, take);
    } else if (member.method == stored) {
        for (auto left = std::min(member.packed, most); left > 0;) {
            const auto part =
                at.take(static_cast<std::size_t>(std::min<std::uint64_t>(left, Cursor::window)));
            if (part.empty()) break;
            take(part);
            left -= part.size();
        }
    }
}

}  // namespace undershelf::content
