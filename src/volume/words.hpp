#pragma once
// The words for the model's values, as they are listed, asked for and exported.

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "volume/model.hpp"

namespace undershelf {

std::string_view word(Origin origin);
std::string_view word(Grade grade);  ///< empty for folders
std::string_view word(Layout layout);
std::string_view word(NameCertainty certainty);
std::string_view word(VolumeState state);
/// Of namespace attribute's bits: read-only, hidden, system, archive.
std::vector<std::string> attribute_words(std::uint32_t attributes);

/// Was a volume found as most are, by its own head? Other ways are worth saying.
bool by_own_head(const Volume& volume);
/// `found by the old boot sector`, `as told`.
std::string how_found(const Volume& volume);

std::optional<Origin> origin_from_word(std::string_view text);
std::optional<Grade> grade_from_word(std::string_view text);

}  // namespace undershelf
