#include "targets.hpp"

#include <algorithm>
#include <cstdlib>
#include <sstream>
#include <string>

#include "answers/id_list.hpp"
#include "answers/known_sums.hpp"
#include "bins/ds_store.hpp"
#include "cli/command.hpp"
#include "content/formats.hpp"
#include "exfat/file_system.hpp"
#include "fat/file_system.hpp"
#include "file_targets.hpp"
#include "hfsplus/file_system.hpp"
#include "layout/find_volumes.hpp"
#include "layout/lost_heads.hpp"
#include "ntfs/file_system.hpp"
#include "patched_volume.hpp"
#include "seed_volumes.hpp"
#include "shelf/packing.hpp"
#include "source/coverage_file.hpp"
#include "support/memory_content.hpp"
#include "support/memory_device.hpp"
#include "support/traces.hpp"
#include "systems/file_systems.hpp"
#include "unnamed/entry.hpp"
#include "unnamed/gather.hpp"
#include "unnamed/starts.hpp"

namespace undershelf::fuzz {

namespace {

template <const FileSystem& (*file_system)(), std::vector<ByteVector> (*volumes)()>
void read_volume(Bytes input) {
    static const auto seeds = seeds_of(volumes());
    read_all(file_system(), *patched(seeds, input));
}

/// Partition maps, and which volumes are where.
void find_on_disk(Bytes input) {
    static const auto seeds = seeds_of(disks());
    const auto source = patched(seeds, input);
    find_volumes(*source, file_systems());
    // The same without a map: heads and copies wherever they are.
    const auto bytes = source->read_vector({0, std::min<std::uint64_t>(source->size(), 4 << 20)});
    volumes_at_heads(*source, file_systems(), find_heads({bytes, 0, bytes.size()}, file_systems()), {}, {},
                     Progress());
}

/// Trace finders get whatever is on a drive.
void sweep(Bytes input) {
    struct Counter final : TraceSink {
        void trace(Trace&&) override { ++count; }
        std::uint64_t count = 0;
    } counter;
    if (input.empty()) return;
    const SweepBuffer buffer{input.subspan(1), input[0] * 7ull, (input.size() - 1) * 3 / 4};
    for (const auto* fs : file_systems()) fs->find_traces(buffer, counter);
    find_heads(buffer, file_systems());
}

/// Former volumes are made of what finders report, and read.
void settle(Bytes input) {
    static const auto seeds = seeds_of(former_volumes());
    const auto source = patched(seeds, input);
    const auto bytes = source->read_vector({0, std::min<std::uint64_t>(source->size(), 8 << 20)});
    for (const auto* fs : file_systems()) {
        const test::Traces traces(*fs, bytes);
        for (const auto& r : test::settle(*fs, *source, traces))
            fuzz::read_volume(*fs, *source, r.volume, traces);
        const std::vector<PresentLife> present;
        const std::vector<std::uint64_t> heads;
        const RangeSet taken;
        try {
            const VolumeHint told{512, std::string(fs->family()), 1024u, 8192u};
            const auto r = fs->as_told(told, {*source, traces, present, heads, taken, {}});
            fuzz::read_volume(*fs, *source, r.volume, traces);
        } catch (const Error&) {
            // More must be said, or nothing is there.
        }
    }
}

/// A shelf may come from anywhere.
void unpack(Bytes input) {
    pack_pieces(unpack_pieces(input));
    pack_ranges(unpack_ranges(input));
    pack_evidence(unpack_evidence(input));
}

/// Sound files of all formats.
const std::vector<ByteVector>& sound_contents() {
    static const auto text = test::libretto(3000);
    static const std::vector<ByteVector> seeds{
        test::png_file(),
        test::gif_file(),
        test::gzip_file(text),
        test::bzip2_file(text),
        test::xz_file(text),
        test::zstd_file(text),
        test::ogg_file(),
        test::flac_file(),
        test::jpeg_file(),
        test::webp_file(),
        test::pdf_file(),
        test::sqlite_file(),
        test::seven_zip_file(),
        test::cab_file(),
        test::rar_file(),
        test::mp4_file(),
        test::mp4_file({.index_first = true}),
        test::mp4_file({.fragments = true}),
        test::mov_file(),
        test::matroska_file(true),
        test::matroska_file(false, test::Blocks::laced),
        test::mp3_file(),
        test::doc_file(),
        test::xls_file(),
        test::ppt_file(),
        test::tiff_file(),
        test::tiff_file({.deflated = false, .big_endian = true, .photometric = 32803}),
        test::heif_file(),
        test::heif_file(true),
        test::psd_file(),
        test::ico_file(),
        test::wav_file(),
        test::avi_file(),
        test::bmp_file(),
        test::font_file(),
        test::woff_file(),
        test::woff2_file(),
        test::asf_file(),
        test::program_stream(),
        test::transport_stream(192),
        test::bare_video(),
        test::text_file(80),
        test::utf16_file(false),
        test::xml_file(),
        test::html_file(),
        test::rtf_file(),
        test::eml_file(),
        test::mbox_file(),
        test::elf_file(),
        test::pe_file(),
        test::ciff_file(),
        test::raf_file(),
        test::mrw_file(),
        test::x3f_file(),
        test::zip_file({{"mimetype", text, false}, {"act 1.txt", text}, {"act 2.txt", text, true, true}})};
    return seeds;
}

/// Contents come from wherever a layout points: a few bytes of sound files are changed, and the rest is
/// noise.
void contents(Bytes input) {
    const auto& seeds = sound_contents();
    if (input.empty()) return;
    auto bytes = seeds[input[0] % seeds.size()];
    for (std::size_t i = 1; i + 3 <= input.size(); i += 3)
        bytes[(input[i] << 8 | input[i + 1]) % bytes.size()] = input[i + 2];
    test::MemoryContent content(bytes);
    const auto check = check_content(content, {.most_output = 1 << 20});
    if (check && check->holds_to > bytes.size()) std::abort();
    std::size_t given = 0;
    content_text(content, [&](std::string_view piece) { return (given += piece.size()) > 1 << 20; });
    test::MemoryContent noise({input.begin(), input.end()});
    check_content(noise, {.most_output = 1 << 20});
}

/// Contents in free space: sound files, whole and in parts, on a grid, some of it somebody's; a few bytes are
/// changed. What is found is in free space, in order, and nothing twice.
void unnamed(Bytes input) {
    constexpr std::size_t contents = 5, head = 2 + 3 * contents, most = 256 << 10;
    if (input.size() < head) return;
    const auto& seeds = sound_contents();
    const std::size_t step = std::size_t{512} << (input[0] % 4);
    ByteVector bytes;
    std::vector<ByteRange> claimed;
    for (std::size_t i = 2; i < head && bytes.size() < most; i += 3) {
        const auto& seed = seeds[input[i] % seeds.size()];
        const auto from = std::min<std::size_t>(input[i + 1] % 4 ? 0 : input[i + 1] * 16u, seed.size());
        bytes.insert(bytes.end(), seed.begin() + static_cast<std::ptrdiff_t>(from), seed.end());
        bytes.resize((bytes.size() / step + 1) * step - (input[i + 2] % 3 ? 0 : step));
        if (input[i + 2] & 0x80) {
            claimed.push_back({bytes.size(), step});
            bytes.resize(bytes.size() + step, input[1]);
        }
    }
    for (auto i = head; i + 4 <= input.size(); i += 4)
        bytes[(input[i] << 16 | input[i + 1] << 8 | input[i + 2]) % bytes.size()] = input[i + 3];
    const auto source = test::memory_source(bytes);
    const FreeSpace space(RangeSet(std::move(claimed)), bytes.size());
    Volume volume;
    volume.number = 1;
    volume.size = bytes.size();
    volume.cluster_size = static_cast<std::uint32_t>(step);
    const Grids grids(input[1] % 2 ? std::vector<Volume>{volume} : std::vector<Volume>());
    std::vector<Place> places;
    for (const auto& start : find_starts({bytes, 0, bytes.size()})) {
        if (grids.stands(start.offset) && space.contains(start.offset))
            places.push_back({start.offset, format_named(start.format)});
    }
    std::uint64_t end = 0;
    ReadHere reading;
    Gathering(
        *source, space, grids, places, [](const Format&) { return true; }, reading)
        .run(
            0, Progress(),
            [&](Measured&& m) {
                if (m.range.offset < end || m.range.empty() || m.range.end() > space.end_of(m.range.offset) ||
                    m.check.holds_to > m.range.length)
                    std::abort();
                end = m.range.end();
                if (unnamed_entry(m, bytes.size()).name.empty()) std::abort();
            },
            [](std::uint64_t) {});
}

/// The file that says what of a source is in its image may have been written by anybody.
void coverage(Bytes input) {
    std::istringstream in(std::string(input.begin(), input.end()));
    try {
        const auto record = read_coverage(in, "card.img.coverage.csv");
        std::istringstream again(text_of(record));
        if (read_coverage(again, "its copy").coverage != record.coverage) std::abort();
    } catch (const Error&) {
        // Said in a sentence.
    }
}

/// What bins keep about the things in them.
void bins(Bytes input) {
    parse_windows_record(input);
    parse_info2(input);
    parse_trash_info({reinterpret_cast<const char*>(input.data()), input.size()});
    parse_ds_store(input);
}

/// Command lines: words between line ends, as the selection options take them.
void select(Bytes input) {
    std::vector<std::string> words(1);
    for (const auto byte : input) {
        if (byte == '\n') {
            words.emplace_back();
        } else {
            words.back() += static_cast<char>(byte ? byte : ' ');
        }
    }
    for (const auto& word : words) {
        if (word == "--help" || word == "-h") return;  // prints
        if (word.find("-from") != word.npos) return;   // reads files
    }
    cli::Command command{"list", "", "", {}};
    command.selects = true;
    try {
        cli::po::options_description options;
        options.add_options()("sort", cli::po::value<std::vector<std::string>>(), "");
        const auto given = cli::parse(command, options, {}, words);
        if (!given) return;
        where_clause(cli::selection_from(*given));
        cli::sort_from(*given);
    } catch (const Error&) {
        // Wrong usage, said in a sentence.
    }
}

/// Lists of numbers and of sums.
void read_lists(Bytes input) {
    const std::string text(reinterpret_cast<const char*>(input.data()), input.size());
    try {
        std::istringstream in(text);
        read_id_list(in, "list");
    } catch (const Error&) {
        // Said with the line's number.
    }
    try {
        std::istringstream in(text);
        read_known_sums(in, "list", "sha256-from");
    } catch (const Error&) {
        // The same.
    }
}

}  // namespace

const std::vector<Target>& targets() {
    static const std::vector<Target> all{{"fat", read_volume<fat::file_system, fat_volumes>},
                                         {"exfat", read_volume<exfat::file_system, exfat_volumes>},
                                         {"ntfs", read_volume<ntfs::file_system, ntfs_volumes>},
                                         {"hfsplus", read_volume<hfsplus::file_system, hfsplus_volumes>},
                                         {"disk", find_on_disk},
                                         {"lists", read_lists},
                                         {"sweep", sweep},
                                         {"settle", settle},
                                         {"unpack", unpack},
                                         {"coverage", coverage},
                                         {"contents", contents},
                                         {"unnamed", unnamed},
                                         {"select", select},
                                         {"bins", bins},
                                         {"bag", bag},
                                         {"shelf", shelf},
                                         {"captured", captured}};
    return all;
}

}  // namespace undershelf::fuzz
