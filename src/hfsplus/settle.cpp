#include "hfsplus/settle.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <unordered_map>

#include "base/text.hpp"
#include "hfsplus/former.hpp"
#include "hfsplus/own_use.hpp"
#include "hfsplus/records.hpp"
#include "hfsplus/traces.hpp"
#include "settling/settler.hpp"

namespace undershelf::hfsplus {

namespace {

constexpr std::uint32_t largest_block = 64 << 10;
constexpr std::size_t most_held = 512, most_sampled = 4096;
/// Where volumes begin by themselves, after the usual maps, or after the small partition before them.
constexpr std::uint64_t usual_starts[] = {0, 32 << 10, 20480, 1 << 20, 209735680, 210763776};

struct Candidate : settling::Candidate {
    std::uint64_t offset = 0, end = 0;  ///< of the volume in the source
    std::uint32_t block = 0;
    std::string system = "HFS+", label;
};

class Settler final : public settling::Settler<Candidate> {
  public:
    Settler(const Settling& s, const Progress& progress) : settling::Settler<Candidate>(s, progress) {
        gather();
    }

  private:
    bool anything_left() const override { return !nodes_.empty(); }
    std::vector<Candidate> candidates() override;
    void weigh(Candidate& c) const override;
    void complete(Candidate& c) override;
    void take(const Candidate& c) override;
    Recognition recognition(const Candidate& c) const override;
    std::optional<Recognition> without_geometry() const override;

    void gather();
    bool is_of_before(const NodeTrace& node) const;
    void sample();
    void add(std::vector<Candidate>& out, std::uint64_t start, std::uint32_t block, std::uint64_t size,
             const char* found_by) const;
    std::uint32_t end_date(const Volume& v) const;
    std::vector<Item> items_of(const NodeTrace& node) const;

    std::unordered_map<const Volume*, std::uint32_t> made_;  ///< present HFS+ volumes, seconds since 1904
    std::vector<NodeTrace> nodes_;                           ///< of catalogues
    std::vector<Item> items_;  ///< files with extents, from nodes spread over all
};

/// What was made after a present HFS+ volume was formatted is left over from its own life.
bool Settler::is_of_before(const NodeTrace& node) const {
    const auto* around = s_.present_around(node.offset);
    if (!around || around->family != "HFS+") return true;
    const auto made = made_.at(around);
    return made == 0 || (node.made != 0 && node.made < made);
}

void Settler::gather() {
    for (const auto& life : s_.present) {
        if (life.volume.family == "HFS+") made_.emplace(&life.volume, made_at(s_.source, life.volume));
    }
    s_.traces.visit_all(node_trace, [&](const Trace& t) {
        const auto node = node_of(t);
        if (node && node->tree == Tree::catalogue && !node->is_index && is_of_before(*node))
            nodes_.push_back(*node);
        return !progress_.stopped();
    });
}

std::vector<Item> Settler::items_of(const NodeTrace& node) const {
    // Any block is inside a volume of this size.
    const Geometry any{0, 512, UINT32_MAX};
    std::vector<Item> out;
    const auto bytes = s_.source.read_vector({node.offset, node.size});
    const auto parsed = Node::parse(bytes);
    for (std::size_t i = 0; parsed && i < parsed->records(); ++i) {
        auto item = read_item(parsed->record(i), any);
        if (item) out.push_back(std::move(*item));
    }
    return out;
}

void Settler::sample() {
    items_.clear();
    const auto step = std::max<std::size_t>(1, nodes_.size() / most_sampled);
    for (std::size_t i = 0; i < nodes_.size() && items_.size() < most_held; i += step) {
        for (auto& item : items_of(nodes_[i])) {
            if (!item.is_dir && !item.is_link() && !item.data.extents.empty() && item.data.size > 0)
                items_.push_back(std::move(item));
        }
    }
}

// Which geometries may have been.

void Settler::add(std::vector<Candidate>& out, std::uint64_t start, std::uint32_t block, std::uint64_t size,
                  const char* found_by) const {
    if (start >= s_.source.size() || block < 512 || block > largest_block) return;
    for (const auto& c : out) {
        if (c.offset == start && c.block == block) return;
    }
    Candidate c;
    c.offset = start;
    c.end = size && size <= s_.source.size() - start ? start + size : s_.source.size();
    c.block = block;
    c.found_by = found_by;
    out.push_back(std::move(c));
}

std::vector<Candidate> Settler::candidates() {
    sample();
    std::vector<Candidate> out;
    for (const auto head : s_.heads) {
        const auto h = s_.source.read_structure<HFSPlusVolumeHeader>(head);
        const bool is_one =
            h && (h->signature.value() == kHFSPlusSigWord || h->signature.value() == kHFSXSigWord);
        if (!is_one || s_.taken.contains(head) || !is_power_of_two(h->blockSize.value())) continue;
        const auto size = std::uint64_t{h->totalBlocks.value()} * h->blockSize.value();
        const auto begin = out.size();
        if (head >= header_offset)
            add(out, head - header_offset, h->blockSize.value(), size, "old volume header");
        if (head + header_offset >= size)
            add(out, head + header_offset - size, h->blockSize.value(), size, "old alternate volume header");
        for (auto i = begin; i < out.size(); ++i)
            out[i].system = h->signature.value() == kHFSXSigWord ? "HFSX" : "HFS+";
    }
    for (const auto& life : s_.present) {
        if (life.volume.family == "HFS+")
            add(out, life.volume.offset, life.volume.cluster_size, 0,
                "nodes of a catalogue older than the present volume's, in its geometry");
    }
    for (const auto start : s_.usual_starts(usual_starts)) {
        for (std::uint32_t block = 512; block <= largest_block; block *= 2)
            add(out, start, block, 0, "nodes of its catalogue and contents that agree on its geometry");
    }
    return out;
}

// What bears a geometry out.

void Settler::weigh(Candidate& c) const {
    for (const auto& item : items_) {
        const auto at = c.offset + std::uint64_t{item.data.extents.front().start} * c.block;
        if (at >= c.end) {
            c.evidence.outside();
            continue;
        }
        if (s_.taken.contains(at)) continue;
        const auto first =
            s_.source.read_vector({at, std::min<std::uint64_t>(item.data.size, signature_bytes)});
        c.evidence.file(first, extension_of(shown(item.name)));
    }
}

/// The volume's name is that of its root folder.
void Settler::complete(Candidate& c) {
    const auto* around = s_.present_around(c.offset);
    if (c.end == s_.source.size() && around && around->offset == c.offset)
        c.end = std::min(around->offset + around->size, s_.source.size());
    for (const auto& node : nodes_) {
        if (node.first_id != kHFSRootParentID || node.offset < c.offset || node.offset >= c.end) continue;
        for (const auto& item : items_of(node)) {
            if (item.parent == kHFSRootParentID) c.label = shown(item.name);
        }
    }
    c.votes.push_back(fmt::format(
        "Of the contents that {} nodes of its catalogue name and that could be looked at, {} are what their "
        "names say and {} are not.",
        grouped(nodes_.size()), grouped(c.evidence.agrees()), grouped(c.evidence.contradicts())));
}

/// When the present HFS+ volume over it was made, seconds since 1904; 0 for none.
std::uint32_t Settler::end_date(const Volume& v) const {
    for (const auto& life : s_.present) {
        const auto& p = life.volume;
        if (p.family == "HFS+" && overlap({p.offset, p.size}, {v.offset, v.size})) return made_.at(&p);
    }
    return 0;
}

Recognition Settler::recognition(const Candidate& c) const {
    Recognition r;
    auto& v = r.volume;
    v.family = "HFS+";
    v.file_system = c.system;
    v.offset = v.grid_start = c.offset;
    const auto blocks = std::min<std::uint64_t>((c.end - c.offset) / c.block, UINT32_MAX);
    v.size = blocks * c.block;
    v.cluster_size = c.block;
    v.label = c.label;
    const bool alone = s_.nothing_over({v.offset, v.size});
    v.state = alone ? VolumeState::present : VolumeState::former;
    settling::describe(v, c);
    v.geometry = pack_geometry(c.block, static_cast<std::uint32_t>(blocks), end_date(v));
    return r;
}

/// Nodes of which nothing tells the geometry: names, dates, and what is kept in records.
std::optional<Recognition> Settler::without_geometry() const {
    if (nodes_.empty()) return std::nullopt;
    Recognition r;
    auto& v = r.volume;
    v = s_.somewhere("HFS+", "nodes of a catalogue of which nothing tells the geometry");
    v.geometry = pack_geometry(0, 0, end_date(v));
    v.votes = fmt::format(
        "{} nodes of a catalogue are left that fit no geometry: names come back, contents do not.",
        grouped(nodes_.size()));
    return r;
}

void Settler::take(const Candidate& c) {
    std::erase_if(nodes_, [&](const NodeTrace& n) { return n.offset >= c.offset && n.offset < c.end; });
}

}  // namespace

std::vector<Recognition> settle(const Settling& settling, const Progress& progress) {
    return Settler(settling, progress).run();
}

}  // namespace undershelf::hfsplus
