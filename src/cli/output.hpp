#pragma once
// Writing to standard output and standard error. What cannot be written to the output is an error of the
// command; what cannot be written to standard error is nobody's loss.

#include <fmt/format.h>

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <string_view>

namespace undershelf::cli {

/// Opens what of the three standard files is closed, so that no other file takes its number. To be called
/// first.
void claim_standard_files();

/// Writes to standard output. Throws Error(output) when that fails.
void write_out(std::string_view text);
/// Hands over everything written so far. Throws Error(output) when that fails.
void flush_out();
/// Writes a line or a part of one to standard error.
void write_note(std::string_view text);

/// Writes it to standard output; what would steer a terminal is escaped.
void print_json(const nlohmann::ordered_json& value);

template <class... Arguments>
void print(fmt::format_string<Arguments...> format, Arguments&&... arguments) {
    write_out(fmt::format(format, std::forward<Arguments>(arguments)...));
}
template <class... Arguments>
void note(fmt::format_string<Arguments...> format, Arguments&&... arguments) {
    write_note(fmt::format(format, std::forward<Arguments>(arguments)...));
}

}  // namespace undershelf::cli
