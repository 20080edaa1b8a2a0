#pragma once
// Contents and pages drawn by processes of `undershelf-decoder`: a few at a time, each bounded in memory and
// time.

#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <string>

#include "content/content.hpp"
#include "content/drawn.hpp"
#include "content/format.hpp"

namespace undershelf {

namespace content {
class ApartPool;
}

/// The file that is wanted.
struct PictureWish {
    std::uint32_t pixels = 512;  ///< the longer side; smaller where the content has fewer
    PictureForm form = PictureForm::png;
    std::uint64_t most_bytes = 0;  ///< of a JPEG file: as good as fits; 0 for any
};

class Drawings {
  public:
    /// `decoder`: its file; empty for the one beside this program.
    explicit Drawings(const std::string& decoder = {});
    ~Drawings();
    Drawings(const Drawings&) = delete;
    Drawings& operator=(const Drawings&) = delete;

    // Several threads may ask at a time. Both throw Error(input) where no process can be started.

    /// Draws a content as one of `format`, null for none that is known. `file` is the drawn one, empty where
    /// nothing could be drawn; then `why` says what is the matter.
    Drawn content(Content& content, const Format* format, const PictureWish& wish, std::string& file);

    /// Pages as drawing/page.hpp describes them, whose pictures are in `pictures` one after the other. Throws
    /// Error(output) where they cannot be drawn.
    std::string pages(const nlohmann::json& described, const std::string& pictures, const PictureWish& wish);

  private:
    std::unique_ptr<content::ApartPool> processes_;
};

}  // namespace undershelf
