#pragma once
// What an export is asked to do, and how two exports are known to be the same job.

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "shelf/shelf.hpp"

namespace undershelf {

/// In which folders files are put, below those for live, deleted, ...: their own, none, one a kind, one a
/// month.
enum class ExportTree : std::uint8_t { keep, flat, kind, month };
std::string_view word(ExportTree tree);
std::optional<ExportTree> export_tree_from_word(std::string_view word);

struct ExportOptions {
    std::vector<std::string> to;  ///< folders of bags, filled one after the other
    Selection selection;
    bool links = false;  ///< links whose target is in the bag are made links, not text files
    ExportTree tree = ExportTree::keep;
    CommandLine command = {};  ///< that asks, for the shelf's journal
};

/// The job in one line of JSON: source, selection and form of the tree. The same for the same command,
/// whatever version of the program asks.
std::string describe_job(const SourceRecord& source, const ExportOptions& options);

}  // namespace undershelf
