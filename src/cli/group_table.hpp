#pragma once
// Groups of entries: how much there is, and how to open it.

#include "answers/group_words.hpp"
#include "cli/command.hpp"

namespace undershelf::cli {

/// `format`: table, csv or jsonl. False when nothing fits.
bool list_groups(const Shelf& shelf, const Selection& selection, GroupBy by, std::optional<unsigned> depth,
                 const std::string& format, const Terminal& terminal, const po::variables_map& given);

}  // namespace undershelf::cli
