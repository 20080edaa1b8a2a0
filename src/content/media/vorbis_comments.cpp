#include "content/media/vorbis_comments.hpp"

#include "content/content.hpp"
#include "content/titles.hpp"

namespace undershelf::content {

using boost::endian::little_uint32_buf_t;

std::string comments_title(Bytes comments) {
    const auto take = [&]() -> Bytes {
        const auto length = load<little_uint32_buf_t>(comments);
        if (!length || length->value() > comments.size() - 4) {
            comments = {};
            return {};
        }
        const auto out = comments.subspan(4, length->value());
        comments = comments.subspan(4 + out.size());
        return out;
    };
    take();
    if (comments.size() < 4) return {};
    comments = comments.subspan(4);
    std::string artist, title;
    while (!comments.empty()) {
        const auto comment = std::string(text_of(take()));
        auto key = comment.substr(0, comment.find('='));
        for (auto& c : key) c = c >= 'a' && c <= 'z' ? static_cast<char>(c - 32) : c;
        if (key == "TITLE" && title.empty()) title = comment.substr(6);
        if (key == "ARTIST" && artist.empty()) artist = comment.substr(7);
    }
    return song_title(artist, title);
}

}  // namespace undershelf::content
