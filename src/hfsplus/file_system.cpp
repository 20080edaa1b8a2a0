#include "hfsplus/file_system.hpp"

#include <fmt/format.h>
#include <openssl/evp.h>

#include <algorithm>
#include <cstring>

#include "base/error.hpp"
#include "base/text.hpp"
#include "hfsplus/former.hpp"
#include "hfsplus/own_use.hpp"
#include "hfsplus/reader.hpp"
#include "hfsplus/settle.hpp"
#include "hfsplus/traces.hpp"

namespace undershelf::hfsplus {

namespace {

constexpr std::uint64_t most_bitmap = 8 << 20;

std::optional<HFSPlusVolumeHeader> read_header(const Source& source, std::uint64_t at) {
    const auto h = source.read_structure<HFSPlusVolumeHeader>(at);
    if (!h) return std::nullopt;
    const bool plus = h->signature.value() == kHFSPlusSigWord && h->version.value() == 4;
    const bool x = h->signature.value() == kHFSXSigWord && h->version.value() == 5;
    const auto block = h->blockSize.value();
    if ((!plus && !x) || block < 512 || !is_power_of_two(block) || block > (1u << 26)) return std::nullopt;
    if (h->totalBlocks.value() == 0 || h->freeBlocks.value() > h->totalBlocks.value()) return std::nullopt;
    return h;
}

std::uint64_t size_of(const HFSPlusVolumeHeader& h) {
    return std::uint64_t{h.totalBlocks.value()} * h.blockSize.value();
}

/// The first bytes of a special file, as far as its first extent reaches.
ByteVector fork_start(const Source& source, std::uint64_t volume, const HFSPlusVolumeHeader& h,
                      const HFSPlusForkData& fork, std::uint64_t offset, std::uint64_t length) {
    const auto& first = fork.extents[0];
    const std::uint64_t room = std::uint64_t{first.blockCount.value()} * h.blockSize.value();
    if (offset >= room || first.startBlock.value() >= h.totalBlocks.value()) return {};
    return source.read_vector(
        {volume + std::uint64_t{first.startBlock.value()} * h.blockSize.value() + offset,
         std::min(length, room - offset)});
}

/// Header record of the catalogue, when its header node is one.
std::optional<BTHeaderRec> catalogue_header(const Source& source, std::uint64_t volume,
                                            const HFSPlusVolumeHeader& h) {
    const auto bytes = fork_start(source, volume, h, h.catalogFile, 0, 512);
    const auto node = load<BTNodeDescriptor>(bytes);
    const auto header = load<BTHeaderRec>(bytes, sizeof(BTNodeDescriptor));
    if (!node || !header || node->kind != kBTHeaderNode || node->reserved.value() != 0) return std::nullopt;
    const auto size = header->nodeSize.value();
    return size >= 512 && is_power_of_two(size) ? header : std::nullopt;
}

/// The volume's name is the name of its root folder: the key of the record whose parent is kHFSRootParentID,
/// the first one in the first leaf.
std::string label_of(const Source& source, std::uint64_t volume, const HFSPlusVolumeHeader& h) {
    const auto header = catalogue_header(source, volume, h);
    if (!header) return {};
    const std::uint64_t size = header->nodeSize.value();
    const auto leaf =
        fork_start(source, volume, h, h.catalogFile, header->firstLeafNode.value() * size, size);
    const auto node = load<BTNodeDescriptor>(leaf);
    if (!node || node->kind != kBTLeafNode || leaf.size() < 24) return {};
    // Key: keyLength, parentID, then the name as its length and UTF-16 units.
    const auto number = [&](std::size_t at) { return static_cast<unsigned>(leaf[at] << 8 | leaf[at + 1]); };
    const std::size_t key = 14;
    if (number(key + 2) != 0 || number(key + 4) != kHFSRootParentID) return {};
    const auto length = number(key + 6);
    if (length > 255 || key + 8 + length * 2 > leaf.size()) return {};
    std::u16string name;
    for (std::size_t i = 0; i < length; ++i) name += static_cast<char16_t>(number(key + 8 + i * 2));
    return utf8_from_utf16(name);
}

/// The volume's UUID: version 3 (RFC 4122) of the 64-bit id in finderInfo, in the name space that Apple's
/// systems use for it. Empty without an id.
std::string uuid_of(const HFSPlusVolumeHeader& h) {
    const auto* id = h.finderInfo + 24;
    if (all_zero({id, 8})) return {};
    static constexpr std::uint8_t name_space[16] = {0xB3, 0xE2, 0x0F, 0x39, 0xF2, 0x92, 0x11, 0xD6,
                                                    0x97, 0xA4, 0x00, 0x30, 0x65, 0x43, 0xEC, 0xAC};
    std::uint8_t input[24], d[EVP_MAX_MD_SIZE];
    std::copy_n(name_space, 16, input);
    std::copy_n(id, 8, input + 16);
    if (EVP_Digest(input, sizeof input, d, nullptr, EVP_md5(), nullptr) != 1) return {};
    d[6] = (d[6] & 0x0F) | 0x30;
    d[8] = (d[8] & 0x3F) | 0x80;
    return fmt::format(
        "{:02X}{:02X}{:02X}{:02X}-{:02X}{:02X}-{:02X}{:02X}-{:02X}{:02X}-{:02X}{:02X}{:02X}{:02X}{:02X}{:"
        "02X}",
        d[0], d[1], d[2], d[3], d[4], d[5], d[6], d[7], d[8], d[9], d[10], d[11], d[12], d[13], d[14], d[15]);
}

/// Where the volume in the HFS wrapper at `at` starts; nothing when there is no wrapper.
std::optional<std::uint64_t> embedded_in(const Source& source, std::uint64_t at) {
    const auto mdb = source.read_structure<MasterDirectoryBlock>(at + header_offset);
    if (!mdb || mdb->drSigWord.value() != kHFSSigWord || mdb->drEmbedSigWord.value() != kHFSPlusSigWord)
        return std::nullopt;
    return at + mdb->drAlBlSt.value() * 512ull +
           std::uint64_t{mdb->drEmbedStartBlock.value()} * mdb->drAlBlkSiz.value();
}

class HfsPlusFileSystem final : public FileSystem {
  public:
    std::string_view family() const override { return "HFS+"; }
    std::vector<std::string_view> systems() const override { return {"HFS+", "HFSX"}; }

    std::optional<Recognition> recognise(const Source& source, std::uint64_t offset,
                                         const ReadOptions&) const override {
        if (const auto inner = embedded_in(source, offset)) {
            auto r = describe(source, *inner, *inner + header_offset, "HFS wrapper");
            if (r) r->remarks.push_back(fmt::format("It is inside an HFS wrapper at offset {}.", offset));
            return r;
        }
        return describe(source, offset, offset + header_offset, "volume header");
    }

    std::vector<Recognition> recognise_copy(const Source& source, std::uint64_t at,
                                            const ReadOptions&) const override {
        const auto h = read_header(source, at);
        if (!h) return {};
        // The alternate header is 1024 bytes before the end, which need not be the end of the last block.
        std::vector<Recognition> out;
        const auto size = size_of(*h);
        for (std::uint64_t beyond = 0; beyond < h->blockSize.value(); beyond += 512) {
            if (at + header_offset < size + beyond) break;
            auto r = describe(source, at + header_offset - size - beyond, at, "alternate volume header");
            if (r && r->volume.support > 0.6) {
                out.push_back(std::move(*r));
                break;
            }
        }
        return out;
    }

    std::vector<std::uint64_t> copy_places(const ByteRange& stretch, std::uint32_t) const override {
        if (stretch.length < 2 * header_offset) return {};
        return {stretch.end() / 512 * 512 - header_offset};
    }

    bool may_be_head(Bytes sector) const override {
        const bool plus = sector[0] == 'H' && (sector[1] == '+' || sector[1] == 'X');
        return plus || (sector[0] == 'B' && sector[1] == 'D');  // "BD" begins the head of a wrapper
    }
    std::uint64_t head_distance() const override { return header_offset; }

    std::optional<Space> space(const Source& source, const Volume& volume) const override {
        const auto h = read_header(source, volume.head_offset);
        if (!h) return std::nullopt;
        Space out;
        const std::uint64_t block = h->blockSize.value(), total = h->totalBlocks.value();
        out.free = h->freeBlocks.value() * block;
        out.used = total * block - out.free;
        if (total / 8 > most_bitmap) return out;
        const auto bits = fork_start(source, volume.offset, *h, h->allocationFile, 0, (total + 7) / 8);
        const auto step = std::max<std::uint64_t>(1, total / 512);
        for (std::uint64_t b = 0; b < std::min<std::uint64_t>(total, bits.size() * 8); b += step) {
            if (!(bits[b / 8] >> (7 - b % 8) & 1))
                out.free_samples.push_back({volume.offset + b * block, block});
        }
        return out;
    }

    std::unique_ptr<VolumeReader> open(const Source& source, const Volume& volume, const TraceStore& traces,
                                       const ReadOptions&) const override {
        if (!volume.geometry.empty()) return open_former(source, volume, traces);
        const auto h = read_header(source, volume.head_offset);
        if (!h)
            throw Error(Trouble::input, fmt::format("The volume header at offset {} cannot be read any more.",
                                                    volume.head_offset));
        return std::make_unique<Reader>(source, volume, *h);
    }

    // Its trees are made larger than they need to be, and only the nodes in use are written.
    bool accounts_for_its_space() const override { return false; }
    RangeSet own_use(const Source& source, const Volume& volume) const override {
        return hfsplus::own_use(source, volume);
    }
    void find_traces(const SweepBuffer& buffer, TraceSink& sink) const override {
        hfsplus::find_traces(buffer, sink);
    }
    std::vector<Recognition> settle(const Settling& settling, const Progress& progress) const override {
        return hfsplus::settle(settling, progress);
    }
    Recognition as_told(const VolumeHint& told, const Settling& settling) const override {
        return hfsplus::as_told(told, settling);
    }

  private:
    static std::optional<Recognition> describe(const Source& source, std::uint64_t start, std::uint64_t head,
                                               const std::string& found_by) {
        const auto h = read_header(source, head);
        if (!h) return std::nullopt;
        Recognition r;
        auto& v = r.volume;
        v.family = "HFS+";
        v.file_system = h->signature.value() == kHFSXSigWord ? "HFSX" : "HFS+";
        v.offset = start;
        v.head_offset = head;
        v.grid_start = start;
        v.found_by = found_by;
        v.size = size_of(*h);
        v.cluster_size = h->blockSize.value();
        v.serial = uuid_of(*h);
        v.label = label_of(source, start, *h);
        int good = 1;
        const auto alternate = start + v.size >= header_offset
                                   ? read_header(source, start + v.size - header_offset)
                                   : std::nullopt;
        if (alternate || head != start + header_offset) {
            ++good;
        } else {
            r.remarks.push_back("The alternate volume header is not where it should be.");
        }
        if (catalogue_header(source, start, *h)) {
            good += 2;
        } else {
            r.remarks.push_back("The catalogue does not begin as one.");
        }
        v.support = good / 4.0;
        if (v.offset + v.size > source.size())
            r.remarks.push_back(fmt::format("The volume says it has {} bytes, {} more than the source holds.",
                                            v.size, v.offset + v.size - source.size()));
        return r;
    }
};

}  // namespace

const FileSystem& file_system() {
    static const HfsPlusFileSystem instance;
    return instance;
}

}  // namespace undershelf::hfsplus
