#include "capture/image_hash.hpp"

#include <algorithm>
#include <optional>

#include "base/sha256.hpp"

namespace undershelf {

ImageHash hash_image(const ImageFile& image, const BlockHashes& hashes, Progress& progress) {
    constexpr std::uint64_t at_a_time = 1 << 20, block_size = BlockHashes::block_size;
    static_assert(block_size % at_a_time == 0);
    progress.stage("hashing the image");
    progress.counts_bytes();
    ImageHash out;
    Sha256 all;
    std::optional<Sha256> block(std::in_place);
    ByteVector bytes(at_a_time);
    for (std::uint64_t at = 0; at < image.size(); at += at_a_time) {
        const auto part =
            MutableBytes(bytes).first(static_cast<std::size_t>(std::min(at_a_time, image.size() - at)));
        if (progress.stopped() || !image.read(at, part)) return {};
        all.add(part);
        block->add(part);
        const auto end = at + part.size();
        if (end % block_size == 0 || end == image.size()) {
            const auto number = at / block_size;
            const auto known = hashes.known(number);
            if (known && *known != block->hex())
                out.changed.push_back({number * block_size, end - number * block_size});
            block.emplace();
        }
        progress.at(end, image.size());
    }
    if (out.changed.empty()) out.sha256 = all.hex();
    return out;
}

}  // namespace undershelf
