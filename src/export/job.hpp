#pragma once
// What an export is asked to do, and how two exports are known to be the same job.

#include <string>

#include "shelf/shelf.hpp"

namespace undershelf {

struct ExportOptions {
    std::string to;  ///< the folder of the bag
    Selection selection;
    bool links = false;  ///< links whose target is in the bag are made links, not text files
    bool flat = false;   ///< all files into one folder each for live, deleted, ..., without their tree
};

/// The job in one line of JSON: source, selection and form of the tree. The same for the same command,
/// whatever version of the program asks.
std::string describe_job(const SourceRecord& source, const ExportOptions& options);

}  // namespace undershelf
