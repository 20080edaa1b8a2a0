#include "content/apart.hpp"

#include <dlfcn.h>

#include <algorithm>
#include <filesystem>

#include "content/apart_process.hpp"
#include "content/formats.hpp"

namespace undershelf {

using namespace content;

namespace {

using Failed = ApartProcess::Failed;

/// The decoder in the folder of a file; empty where it is not there.
std::string beside(const std::filesystem::path& file) {
    std::error_code ec;
    const auto there = file.parent_path() / decoder_name;
    return !file.empty() && std::filesystem::exists(there, ec) ? there.string() : std::string();
}

/// The reader of a content, where others' code is among what it reads with; null where this process may ask
/// it.
const FormatReader* reader_apart(Content& content) {
    Cursor start(content);
    const auto* reader = reader_for(start.peek(4096));
    return reader && !reader->all_our_own() ? reader : nullptr;
}

}  // namespace

std::string decoder_beside() {
    std::error_code ec;
    if (auto found = beside(std::filesystem::read_symlink("/proc/self/exe", ec)); !found.empty())
        return found;
    Dl_info library{};
    // Any address of this library tells where it is.
    if (::dladdr(reinterpret_cast<const void*>(&decoder_beside), &library) == 0 || !library.dli_fname)
        return {};
    return beside(std::filesystem::absolute(library.dli_fname, ec));
}

DecodersApart::DecodersApart(const std::string& program, ApartBounds bounds)
    : decoders_(std::make_unique<ApartPool>(program, bounds, ApartTask::reading)) {}
DecodersApart::~DecodersApart() = default;

std::optional<Check> DecodersApart::check(Content& content, const CheckLimits& limits) {
    const auto* reader = reader_apart(content);
    if (!reader) return check_content(content, limits);
    std::optional<Check> out;
    const auto failed = decoders_->ask([&](ApartProcess& process) {
        auto request = ApartProcess::request(content, Question::check);
        request.most_output = limits.most_output;
        request.most_searched = limits.most_searched;
        request.title = limits.title;
        out = check_in(process.answer(content, request, {}));
        if (!out || std::max({out->holds_to, out->proven_to, out->noticed_at}) > content.size())
            throw Failed();
    });
    if (failed.empty()) return out;
    Cursor start(content);
    out.emplace();
    out->format = reader->recognise(start.peek(4096)).format;
    out->finished = false;
    out->fails(0, failed);
    return out;
}

Inside DecodersApart::inside(Content& content, const Format& format) {
    if (!reader_apart(content)) return content_inside(content, format);
    std::optional<Inside> out;
    decoders_->ask([&](ApartProcess& process) {
        auto request = ApartProcess::request(content, Question::inside);
        format.word.copy(request.format, sizeof request.format - 1);
        out = inside_in(process.answer(content, request, {}));
        if (!out) throw Failed();
    });
    if (!out) out.emplace();
    if (out->extension.empty()) out->extension = usual_extension(format);
    return *out;
}

void DecodersApart::text(Content& content, const TakeText& take) {
    if (!reader_apart(content)) return content_text(content, take);
    decoders_->ask([&](ApartProcess& process) {
        process.answer(content, ApartProcess::request(content, Question::text), take);
    });
}

void DecodersApart::outline(Content& content, const TakeText& take) {
    if (!reader_apart(content)) return content_outline(content, take);
    decoders_->ask([&](ApartProcess& process) {
        process.answer(content, ApartProcess::request(content, Question::outline), take);
    });
}

}  // namespace undershelf
