#pragma once

#include <fmt/format.h>

#include <charconv>
#include <cmath>
#include <cstdint>
#include <iterator>
#include <string>
#include <string_view>
#include <utility>

#include "base/byte_range.hpp"
#include "base/printable.hpp"

namespace undershelf {

/// Writes one object, a key after the other. Nothing of it is kept but the text, so that taking it down needs
/// no memory, as destructors of whole values of JSON do.
class JsonLine {
  public:
    void number(const char* key, std::uint64_t number) { name(key), value(number); }
    void id(const char* key, std::int64_t number) { name(key), value(number); }
    void text(const char* key, std::string_view text) { name(key), value(text); }
    void text_or_null(const char* key, std::string_view text) {
        text.empty() ? null(key) : this->text(key, text);
    }
    void null(const char* key) { name(key), value(nullptr); }
    void flag(const char* key, bool set) {
        name(key);
        out_ += set ? "true" : "false";
    }
    /// With four decimals at most.
    void share(const char* key, double value) {
        name(key);
        fmt::format_to(std::back_inserter(out_), "{}", std::round(value * 10000) / 10000);
    }
    /// A list; `put` gives this object each of the values.
    template <class Values, class Put>
    void list(const char* key, const Values& values, const Put& put) {
        name(key);
        out_ += '[';
        bool first = true;
        for (const auto& v : values) {
            if (!std::exchange(first, false)) out_ += ',';
            put(v);
        }
        out_ += ']';
    }
    template <class Fill>
    void object(const char* key, const Fill& fill) {
        name(key);
        JsonLine inner;
        fill(inner);
        out_ += std::move(inner).take();
    }

    /// One value of a list.
    void value(std::uint64_t number) { digits(number); }
    void value(std::int64_t number) { digits(number); }
    void value(int number) { digits(number); }
    void value(std::string_view text) { append_json_text(out_, text); }
    void value(std::nullptr_t) { out_ += "null"; }
    void value(const ByteRange& r) {
        out_ += '[';
        digits(r.offset);
        out_ += ',';
        digits(r.length);
        out_ += ']';
    }

    std::string take() && {
        out_ += out_.empty() ? "{}" : "}";
        return std::move(out_);
    }

  private:
    void name(const char* key) {
        out_ += out_.empty() ? "{\"" : ",\"";
        out_ += key;
        out_ += "\":";
    }
    template <class Number>
    void digits(Number number) {
        char room[24];
        out_.append(room, std::to_chars(room, room + sizeof room, number).ptr);
    }
    std::string out_;
};

}  // namespace undershelf
