// Selections of the command line.

#include <fmt/format.h>
#include <fmt/ranges.h>

#include "answers/empty_selection.hpp"
#include "answers/id_list.hpp"
#include "base/printable.hpp"
#include "cli/command.hpp"
#include "cli/output.hpp"

namespace undershelf::cli {

/// The options of a table, as the command line has them.
void add_options(po::options_description& to, std::span<const SelectionOption> options) {
    for (const auto& o : options) {
        if (o.values == Values::none)
            to.add_options()(o.name, o.help);
        else if (o.values == Values::one)
            to.add_options()(o.name, value(o.takes), o.help);
        else if (o.values == Values::perhaps)
            to.add_options()(o.name, value(o.takes), o.help);
        else
            to.add_options()(o.name, values(o.takes), o.help);
    }
}

Said said_in(const po::variables_map& given, std::span<const SelectionOption> options) {
    Said out;
    for (const auto& o : options) {
        if (!given.count(o.name)) continue;
        auto& said = out[o.name];
        if (o.values == Values::perhaps && given[o.name].as<std::string>() != whatever)
            said.push_back(given[o.name].as<std::string>());
        if (o.values == Values::one) said.push_back(given[o.name].as<std::string>());
        if (o.values == Values::many) said = given[o.name].as<std::vector<std::string>>();
    }
    return out;
}

Selection selection_from(const po::variables_map& given) {
    return undershelf::selection_from(said_in(given, selection_options()));
}

Chosen chosen_from(const po::variables_map& given, const Shelf& shelf) {
    return choose_from(selection_from(given), given, shelf);
}

Chosen choose_from(Selection selection, const po::variables_map& given, const Shelf& shelf) {
    if (selection.listed) {
        for (const auto& sentence : check_id_list(shelf, *selection.listed))
            note("undershelf: {}\n", without_controls(sentence));
    }
    if (!selection.needs_a_look()) {
        Progress silent;
        return choose(shelf, std::move(selection), {}, silent);
    }
    const auto source = given.count("source") ? given["source"].as<std::string>() : std::string();
    ProgressLine progress(true, given.count("progress") ? progress_form(given) : ProgressForm::line);
    return choose(shelf, std::move(selection), source, progress);
}

bool tell_of_looking(const Shelf& shelf, const Chosen& chosen) {
    if (chosen.interrupted) {
        note("undershelf: interrupted after {}.\n", counted(chosen.looked_into, "file", "files"));
        return false;
    }
    const auto tell = [&](std::uint64_t files, const char* which, const char* more) {
        if (files)
            note("{} not looked into, as they are not checked yet: undershelf check {}{}\n",
                 counted(files, fmt::format("{} file was", which).c_str(),
                         fmt::format("{} files were", which).c_str()),
                 shelf.path(), more);
    };
    tell(chosen.unchecked_lost, "lost", "");
    tell(chosen.unchecked_live, "live", " --origin live");
    if (chosen.no_sum)
        note("{} no sum, as bytes are missing.\n", counted(chosen.no_sum, "file has", "files have"));
    return true;
}

void tell_why_nothing_fits(const Shelf& shelf, const po::variables_map& given) {
    for (const auto& sentence : why_nothing_fits(shelf, said_in(given, selection_options())))
        note("{}\n", without_controls(sentence));
}

void tell_what_is_left_out(const Shelf& shelf, const Selection& selection) {
    const auto out = shelf.left_out(selection);
    std::vector<std::string> parts;
    if (out.gone) parts.push_back(fmt::format("{} gone (--grade gone)", grouped(out.gone)));
    if (out.copies)
        parts.push_back(fmt::format("{} (without --hide-copies)", counted(out.copies, "copy", "copies")));
    if (out.helpers)
        parts.push_back(fmt::format("{} (--helpers)", counted(out.helpers, "helper", "helpers")));
    if (!parts.empty()) note("not shown: {}\n", fmt::join(parts, ", "));
}

}  // namespace undershelf::cli
