#pragma once
// Selections as people and scripts say them: options by name, with the values they got.

#include <map>
#include <span>
#include <string>
#include <vector>

#include "scan/narrowing.hpp"
#include "shelf/selection.hpp"

namespace undershelf {

enum class Values {
    none,
    perhaps,  ///< one, or none
    one,
    many
};

struct SelectionOption {
    const char* name;
    Values values;
    const char* takes;  ///< what a help text calls the value; empty for none
    const char* help;
};

/// What was said: the values of each option, none for those that take none.
using Said = std::map<std::string, std::vector<std::string>>;

/// All of a selection, in the order of a help text.
std::span<const SelectionOption> selection_options();
/// Throws Error(usage), naming the option and what it takes.
Selection selection_from(const Said& said);

/// Which contents a scan is to look for.
std::span<const SelectionOption> narrowing_options();
/// Throws Error(usage), as well where none is left.
Narrowing narrowing_from(const Said& said);

/// Of the option `sort`: `-size`, `name`: columns, those with a dash from the largest down. Throws
/// Error(usage).
std::vector<SortKey> sort_from(const Said& said);

/// `10k`, `2M`, `1.5G`: bytes, in powers of 1024. Throws Error(usage), naming the option.
std::uint64_t size_from(const std::string& text, const std::string& option);
/// Throws Error(usage), naming the option.
std::uint64_t number_from(const std::string& text, const std::string& option);
/// Lists of values: given several times, or separated by commas.
std::vector<std::string> split_list(const std::vector<std::string>& values);

}  // namespace undershelf
