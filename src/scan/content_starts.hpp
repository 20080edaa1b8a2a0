#pragma once
// Starts of contents, kept in the shelf among the traces of a sweep.

#include <functional>

#include "shelf/writer.hpp"
#include "unnamed/gather.hpp"
#include "unnamed/starts.hpp"

namespace undershelf {

/// The family under which traces are contents.
constexpr const char* contents_family = "contents";

std::vector<Trace> as_traces(const std::vector<ContentStart>& starts);
/// In the order of the source.
void for_each_start(const ShelfWriter& shelf, const std::function<void(const Place& start)>& visit);

}  // namespace undershelf
