#include "preview/drawings.hpp"

#include <boost/endian/buffers.hpp>
#include <nlohmann/json.hpp>

#include "base/error.hpp"
#include "base/json_text.hpp"
#include "content/apart_process.hpp"

namespace undershelf {

using namespace content;

namespace {

/// Address space is taken by the libraries of those that draw; what they may use is bounded beside that.
constexpr ApartBounds bounds{.memory = 6ull << 30, .silence = 60};
constexpr std::size_t largest_file = 256 << 20;  ///< bytes of what is drawn

/// What comes of one request. A process that gives out more than any picture has fails.
Drawn asked(ApartPool& processes, Content& content, const Request& request, std::string& file) {
    std::optional<Drawn> out;
    const auto failed = processes.ask([&](ApartProcess& process) {
        file.clear();
        out = drawn_in(process.answer(content, request, [&](std::string_view piece) {
            if (piece.size() > largest_file - file.size()) throw ApartProcess::Failed();
            file += piece;
            return false;
        }));
        if (!out || file.empty() != (out->shows == Shows::nothing)) throw ApartProcess::Failed();
    });
    if (failed.empty()) return *out;
    file.clear();
    Drawn nothing;
    nothing.why = failed;
    return nothing;
}

Request request_of(const Content& content, Question question, const PictureWish& wish) {
    auto out = ApartProcess::request(content, question);
    out.pixels = wish.pixels;
    out.form = wish.form;
    out.most_output = wish.most_bytes;
    return out;
}

}  // namespace

Drawings::Drawings(const std::string& decoder)
    : processes_(std::make_unique<ApartPool>(decoder, bounds, ApartTask::drawing)) {}
Drawings::~Drawings() = default;

Drawn Drawings::content(Content& content, const Format* format, const PictureWish& wish, std::string& file) {
    if (!format) {
        Drawn out;
        out.why = "it begins like no format that is known";
        return out;
    }
    auto request = request_of(content, Question::draw, wish);
    format->word.copy(request.format, sizeof request.format - 1);
    return asked(*processes_, content, request, file);
}

std::string Drawings::pages(const nlohmann::json& described, const std::string& pictures,
                            const PictureWish& wish) {
    const auto text = json_text(described);
    const boost::endian::little_uint64_buf_t length(text.size());
    std::string all(reinterpret_cast<const char*>(&length), sizeof length);
    all += text;
    all += pictures;
    BytesAsContent content({reinterpret_cast<const std::uint8_t*>(all.data()), all.size()});
    std::string file;
    const auto drawn = asked(*processes_, content, request_of(content, Question::page, wish), file);
    if (drawn.shows == Shows::nothing)
        throw Error(Trouble::output, "A page cannot be drawn: " +
                                         (drawn.why.empty() ? "it is described wrongly" : drawn.why) + ".");
    return file;
}

}  // namespace undershelf
