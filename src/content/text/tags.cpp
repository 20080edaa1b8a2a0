#include "content/text/tags.hpp"

#include <algorithm>

#include "base/text.hpp"
#include "content/text/markup.hpp"
#include "content/text/text.hpp"

namespace undershelf::content {

namespace {

/// Tags after which a word cannot go on.
constexpr std::string_view breaking =
    " p br tab si c row tr td th li div h h1 h2 h3 h4 h5 h6 title option table line cr body article section ";

std::string local_name(std::string_view tag) {
    if (tag.starts_with('/')) tag.remove_prefix(1);
    auto name = tag.substr(0, tag.find_first_of(" \t\r\n/>"));
    if (const auto colon = name.rfind(':'); colon != name.npos) name.remove_prefix(colon + 1);
    return folded(name);
}

}  // namespace

void TagStripper::take(std::string_view part) {
    constexpr std::size_t longest_tag = 1 << 10, longest_entity = 10;
    for (std::size_t i = 0; i < part.size() && !out_.enough(); ++i) {
        const char c = part[i];
        if (in_ == In::tag) {
            if (c == '>') {
                close_tag();
            } else if (held_.size() < longest_tag) {
                held_ += c;
            }
        } else if (c == '<') {
            if (in_ == In::entity) out_.add(held_);
            in_ = In::tag;
            held_.clear();
        } else if (!hidden_.empty()) {
            continue;
        } else if (in_ == In::entity) {
            held_ += c;
            if (c == ';' || held_.size() > longest_entity) {
                out_.add(without_entities(held_));
                in_ = In::text;
            }
        } else if (c == '&') {
            in_ = In::entity;
            held_ = c;
        } else {
            const auto end = std::min(part.find_first_of("<&", i), part.size());
            out_.add(part.substr(i, end - i));
            i = end - 1;
        }
    }
}

void TagStripper::close_tag() {
    in_ = In::text;
    const auto name = local_name(held_);
    const bool closes = held_.starts_with('/'), empty = held_.ends_with('/');
    if (!hidden_.empty()) {
        if (closes && name == hidden_) hidden_.clear();
        return;
    }
    if (!closes && !empty && (name == "script" || name == "style")) hidden_ = name;
    if (lists_word(breaking, name)) out_.add("\n");
}

namespace {

/// The content's parts as UTF-8, each ending with a line or a word where it has one.
template <class Visit>
void for_each_text(Content& content, const Visit& visit) {
    Cursor at(content);
    const auto first = at.peek(4096);
    const auto encoding = encoding_of(first).value_or(Encoding::eight_bit);
    const auto charset = charset_of(first, encoding);
    const bool wide = encoding == Encoding::utf16_le || encoding == Encoding::utf16_be;
    for (;;) {
        auto part = at.peek(Cursor::window);
        if (part.empty()) return;
        if (part.size() == Cursor::window && !wide) {
            const auto space = text_of(part).find_last_of(" \n");
            if (space != std::string_view::npos && space > 0) part = part.first(space + 1);
        }
        if (!visit(as_utf8(part, encoding, charset))) return;
        at.take(part.size());
    }
}

}  // namespace

void plain_words(Content& content, const TakeText& take) {
    Pieces out(take);
    for_each_text(content, [&](const std::string& text) {
        out.add(text);
        return !out.enough();
    });
    out.flush();
}

void markup_words(Content& content, const TakeText& take) {
    Pieces out(take);
    TagStripper stripper(out);
    for_each_text(content, [&](const std::string& text) {
        stripper.take(text);
        return !out.enough();
    });
    out.flush();
}

}  // namespace undershelf::content
