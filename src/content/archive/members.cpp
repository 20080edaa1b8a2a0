#include "content/archive/members.hpp"

#include <archive.h>
#include <archive_entry.h>
#include <fmt/format.h>

#include <algorithm>
#include <memory>

#include "base/amounts.hpp"
#include "base/text.hpp"
#include "content/archive/libarchive.hpp"
#include "content/archive/zip_directory.hpp"
#include "content/memory.hpp"

namespace undershelf::content {

bool MemberLines::add(std::string_view name, std::optional<std::uint64_t> size) {
    out_.add(fmt::format("{:>10}  {}\n", size ? human_size(*size) : "", name));
    return !out_.enough();
}

void zip_outline(Content& content, const TakeText& take) {
    MemberLines out(take);
    for (const auto& member : zip_directory(content)) {
        const bool folder = member.name.ends_with('/');
        if (!out.add(composed(member.name), folder ? std::nullopt : std::optional(member.size))) break;
    }
}

void archive_outline(Content& content, const TakeText& take) {
    const UsualMemory memory(usual_archive_memory);
    const std::unique_ptr<archive, decltype(&archive_read_free)> a(archive_read_new(), archive_read_free);
    if (!a) throw std::bad_alloc();
    for (const auto support :
         {archive_read_support_format_7zip, archive_read_support_format_cab, archive_read_support_format_rar,
          archive_read_support_format_rar5, archive_read_support_format_tar, archive_read_support_format_raw,
          archive_read_support_filter_gzip, archive_read_support_filter_bzip2, archive_read_support_filter_xz,
          archive_read_support_filter_zstd})
        support(a.get());
    ArchiveSource source(content, content.size());
    if (!source.open(a.get())) return;
    MemberLines out(take);
    archive_entry* entry = nullptr;
    // What members unpack to is passed over, as their heads are among it: so much at most.
    for (OutputBound output(most_passed_over); archive_read_next_header(a.get(), &entry) >= ARCHIVE_WARN;) {
        const char* name = archive_entry_pathname_utf8(entry);
        if (!name) name = archive_entry_pathname(entry);
        const bool sized = archive_entry_size_is_set(entry) && archive_entry_filetype(entry) == AE_IFREG;
        const auto size = static_cast<std::uint64_t>(std::max<la_int64_t>(0, archive_entry_size(entry)));
        const bool packed_alone = archive_format(a.get()) == ARCHIVE_FORMAT_RAW;
        const auto shown = packed_alone ? std::string("one file, packed") : composed(name ? name : "?");
        if (!out.add(shown, sized && !packed_alone ? std::optional(size) : std::nullopt)) break;
        if (packed_alone || !output.add(size, content.size())) break;
    }
}

}  // namespace undershelf::content
