#include "volume/link_target.hpp"

#include <algorithm>

namespace undershelf {

std::string recorded_target(std::string target, Origin origin) {
    const auto is_control = [](char c) { return static_cast<unsigned char>(c) < 0x20; };
    const bool text =
        std::none_of(target.begin(), target.end(), is_control) && target.find("\uFFFD") == std::string::npos;
    return origin == Origin::live || text ? target : std::string();
}

void hold_target(Entry& e, std::uint64_t source) {
    e.pieces.clear();
    e.size = e.link->size();
    e.layout = Layout::known;
    if (e.size > 0) {
        auto& piece = e.pieces.emplace_back();
        piece.kind = PieceKind::inlined;
        piece.length = e.size;
        piece.source = source;
        piece.bytes.assign(e.link->begin(), e.link->end());
    } else if (e.origin != Origin::live) {
        e.layout = Layout::none;
        e.evidence.push_back({Fact::no_start, 0, 0, {}});
    }
}

}  // namespace undershelf
