#include "scan/source_identity.hpp"

#include <fmt/format.h>

#include <filesystem>

#include "base/error.hpp"

namespace undershelf {

std::string source_difference(const Source& source, const SourceRecord& record,
                              const std::vector<SourceSample>& samples) {
    if (source.size() != record.size)
        return fmt::format("it has {} bytes, and the shelf was made from one of {} bytes", source.size(),
                           record.size);
    if (const auto at = sample_that_differs(source, samples))
        return fmt::format("its bytes at offset {} are others than when the shelf was made", *at);
    return {};
}

std::unique_ptr<Source> open_source_of(const Shelf& shelf, const std::string& path) {
    const auto record = shelf.source();
    const auto where = path.empty() ? record.path : path;
    if (!std::filesystem::exists(where)) {
        throw Error(
            Trouble::input,
            fmt::format("The source {} is not there any more; say where it is now with --source PATH.",
                        where));
    }
    auto source = open_source(where, {.unreadable = shelf.unreadable_for_good()});
    if (const auto difference = source_difference(*source, record, read_samples(shelf.database()));
        !difference.empty()) {
        throw Error(Trouble::input,
                    fmt::format("{} is not the source of {}: {}. Give the right one with --source PATH.",
                                where, shelf.path(), difference));
    }
    return source;
}

}  // namespace undershelf
