#include "content/apart_messages.hpp"

#include <cmath>
#include <cstdlib>
#include <nlohmann/json.hpp>

#include "base/json_text.hpp"
#include "base/printable.hpp"

using nlohmann::json;

namespace undershelf::content {

namespace {

/// What is worth no question: words are shorter.
constexpr std::size_t most_sentence = 1024, most_title = 200, most_camera = 200, most_pixels = 24,
                      most_word = 32;

/// Something in it is not as it must be.
struct Wrong {};

std::string text_in(const json& j, const char* key, std::size_t most) {
    const auto& value = j.at(key);
    auto out = value.get<std::string>();
    if (out.size() > most) throw Wrong();
    return without_controls(out);
}

json details_json(const ContentDetails& d) {
    json out{{"pixels", d.pixels.substr(0, most_pixels)}, {"camera", d.camera.substr(0, most_camera)}};
    out["seconds"] = d.seconds ? json(*d.seconds) : json();
    out["pages"] = d.pages ? json(*d.pages) : json();
    return out;
}

ContentDetails details_in(const json& j) {
    ContentDetails out;
    out.pixels = text_in(j, "pixels", most_pixels);
    if (out.pixels.find_first_not_of("0123456789x") != std::string::npos) throw Wrong();
    out.camera = text_in(j, "camera", most_camera);
    if (!j.at("seconds").is_null()) out.seconds = j.at("seconds").get<double>();
    if (out.seconds && (!std::isfinite(*out.seconds) || *out.seconds < 0)) throw Wrong();
    if (!j.at("pages").is_null()) out.pages = j.at("pages").get<std::uint32_t>();
    return out;
}

json time_json(const MaybeTime& time) {
    return time ? json::array({time->ticks, time->offset_minutes}) : json();
}

MaybeTime time_in(const json& j) {
    if (j.is_null()) return std::nullopt;
    // The years 1 to 9999.
    constexpr std::int64_t first = -621'355'968'000'000'000, end = 2'534'023'008'000'000'000;
    constexpr int furthest = 18 * 60;
    const Timestamp out{j.at(0).get<std::int64_t>(), j.at(1).get<std::int16_t>()};
    if (out.ticks < first || out.ticks >= end || (!out.is_local() && std::abs(out.offset_minutes) > furthest))
        throw Wrong();
    return out;
}

template <class Out, class Read>
std::optional<Out> read(const std::string& text, const Read& from) {
    try {
        const auto j = json_in(text);
        if (!j.is_object()) return std::nullopt;
        return from(j);
    } catch (const json::exception&) {
        return std::nullopt;
    } catch (const Wrong&) {
        return std::nullopt;
    }
}

}  // namespace

std::string as_text(const Check& c) {
    return json_text(json{{"format", std::string(c.format)},
                          {"strength", static_cast<int>(c.strength)},
                          {"complete", c.complete},
                          {"cut", c.cut},
                          {"odd_head", c.odd_head},
                          {"loose_end", c.loose_end},
                          {"finished", c.finished},
                          {"holds_to", c.holds_to},
                          {"proven_to", c.proven_to},
                          {"noticed_at", c.noticed_at},
                          {"why", c.why.substr(0, most_sentence)},
                          {"title", c.title.substr(0, most_title)},
                          {"details", details_json(c.details)}});
}

std::optional<Check> check_in(const std::string& text) {
    return read<Check>(text, [](const json& j) {
        const auto* format = format_named(text_in(j, "format", most_word));
        const auto strength = j.at("strength").get<int>();
        if (!format || strength < 0 || strength > static_cast<int>(Strength::strong)) throw Wrong();
        Check out;
        out.format = format->word;
        out.strength = static_cast<Strength>(strength);
        out.complete = j.at("complete").get<bool>();
        out.cut = j.at("cut").get<bool>();
        out.odd_head = j.at("odd_head").get<bool>();
        out.loose_end = j.at("loose_end").get<bool>();
        out.finished = j.at("finished").get<bool>();
        out.holds_to = j.at("holds_to").get<std::uint64_t>();
        out.proven_to = j.at("proven_to").get<std::uint64_t>();
        out.noticed_at = j.at("noticed_at").get<std::uint64_t>();
        out.why =
            text_in(j, "why", 3 * most_sentence);  // bytes that are no text were replaced by longer ones
        out.title = text_in(j, "title", 3 * most_title);
        out.details = details_in(j.at("details"));
        return out;
    });
}

std::string as_text(const Drawn& d) {
    return json_text(json{{"shows", static_cast<int>(d.shows)},
                          {"width", d.width},
                          {"height", d.height},
                          {"share", d.share},
                          {"why", d.why.substr(0, most_sentence)}});
}

std::optional<Drawn> drawn_in(const std::string& text) {
    return read<Drawn>(text, [](const json& j) {
        const auto shows = j.at("shows").get<int>();
        if (shows < 0 || shows > static_cast<int>(Shows::text)) throw Wrong();
        Drawn out;
        out.shows = static_cast<Shows>(shows);
        out.width = j.at("width").get<std::uint32_t>();
        out.height = j.at("height").get<std::uint32_t>();
        out.share = j.at("share").get<double>();
        if (!(out.share >= 0 && out.share <= 1)) throw Wrong();
        out.why = text_in(j, "why", most_sentence);
        return out;
    });
}

std::string as_text(const Inside& in) {
    return json_text(json{{"title", in.title.substr(0, most_title)},
                          {"details", details_json(in.details)},
                          {"created", time_json(in.dates.created)},
                          {"modified", time_json(in.dates.modified)},
                          {"where", in.dates.where.substr(0, most_sentence)},
                          {"extension", in.extension}});
}

std::optional<Inside> inside_in(const std::string& text) {
    return read<Inside>(text, [](const json& j) {
        Inside out;
        out.title = text_in(j, "title", 3 * most_title);
        out.details = details_in(j.at("details"));
        out.dates.created = time_in(j.at("created"));
        out.dates.modified = time_in(j.at("modified"));
        out.dates.where = text_in(j, "where", 3 * most_sentence);
        out.extension = text_in(j, "extension", most_word);
        if (out.extension.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789") != std::string::npos)
            throw Wrong();
        return out;
    });
}

}  // namespace undershelf::content
