#pragma once
// An entry's pieces as a format reader sees them.

#include <algorithm>

#include "base/progress.hpp"
#include "content/content.hpp"
#include "volume/content_stream.hpp"

namespace undershelf {

/// Once the work should end there are no more bytes.
class PiecesContent final : public Content {
  public:
    PiecesContent(const Source& source, std::vector<Piece> pieces, std::uint64_t size,
                  const Progress& progress)
        : stream_(source, std::move(pieces), size), progress_(progress) {}

    std::uint64_t size() const override { return stream_.size(); }
    std::size_t read(std::uint64_t offset, MutableBytes out) override {
        if (offset >= size() || progress_.stopped()) return 0;
        const auto there =
            out.first(static_cast<std::size_t>(std::min<std::uint64_t>(out.size(), size() - offset)));
        const auto missing = stream_.read(offset, there);
        return missing.empty() ? there.size() : static_cast<std::size_t>(missing.front().offset - offset);
    }

  private:
    ContentStream stream_;
    const Progress& progress_;
};

}  // namespace undershelf
