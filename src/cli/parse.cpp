#include <fmt/format.h>

#include <algorithm>

#include "base/nearest.hpp"
#include "cli/command.hpp"
#include "cli/help.hpp"

namespace undershelf::cli {

namespace {
using Words = std::vector<std::string>;

[[noreturn]] void misuse(const std::string& sentence) {
    throw Error(Trouble::usage, sentence);
}

/// Says itself which options there are not: the parser's own messages look for placeholders of theirs in what
/// was typed, without end where it holds one.
void check_names(const Words& arguments, const po::options_description& options, const Command& command) {
    for (const auto& word : arguments) {
        if (word == "--") return;
        const auto name = word.substr(0, word.find('='));
        const bool long_form = name.starts_with("--");
        const bool known =
            std::any_of(options.options().begin(), options.options().end(),
                        [&](const auto& option) { return "--" + option->long_name() == name; });
        const bool placeholder = name.starts_with("-") && !long_form && word.find('%') != std::string::npos;
        if ((long_form && !known) || placeholder) {
            Words all;
            for (const auto& option : options.options()) all.push_back("--" + option->long_name());
            misuse(fmt::format("There is no option `{}`.{} See `undershelf {} --help`.", name,
                               did_you_mean(name, all), command.name));
        }
    }
}

/// An option without a value is a slip of the hand, or of a script's variable; nothing is guessed from it.
void check_values(const po::parsed_options& parsed, const Command& command) {
    for (const auto& option : parsed.options) {
        if (std::none_of(option.value.begin(), option.value.end(), [](const auto& v) { return v.empty(); }))
            continue;
        const auto name =
            option.string_key.starts_with(":") ? option.string_key.substr(1) : "--" + option.string_key;
        misuse(fmt::format("{} is empty. See `undershelf {} --help`.", name, command.name));
    }
}

po::variables_map parsed(const Words& arguments, const po::options_description& options,
                         const po::positional_options_description& order, const Command& command) {
    po::variables_map given;
    try {
        auto parser = po::command_line_parser(arguments).options(options).positional(order);
        // Options may not be shortened: what is a unique start today may be ambiguous tomorrow.
        parser.style(po::command_line_style::unix_style & ~po::command_line_style::allow_guessing);
        const auto run = parser.run();
        check_values(run, command);
        po::store(run, given);
        // Help is to be had without what is required otherwise.
        if (!given.count("help")) po::notify(given);
    } catch (const po::error& e) {
        misuse(fmt::format("{}. See `undershelf {} --help`.", e.what(), command.name));
    }
    return given;
}

/// Options whose value may be left out get theirs after a `=`: what is after one is its value, but for the
/// last argument that a command needs (`export --marked card.shelf`).
Words with_values(const Words& arguments, std::size_t needed, const po::options_description& options) {
    const auto may_lack_value = [](const std::string& word) {
        return std::any_of(selection_options().begin(), selection_options().end(),
                           [&](const SelectionOption& o) {
                               return o.values == Values::perhaps && word == std::string("--") + o.name;
                           });
    };
    const auto takes_next = [&](const std::string& word) {
        const auto* option = word.starts_with("--") && word.find('=') == word.npos && !may_lack_value(word)
                                 ? options.find_nothrow(word.substr(2), false)
                                 : nullptr;
        return option && option->semantic()->max_tokens() > 0;
    };
    std::size_t there = 0;
    for (std::size_t i = 0; i < arguments.size(); ++i)
        there += !arguments[i].starts_with("-") && !(i > 0 && takes_next(arguments[i - 1]));
    Words out;
    for (std::size_t i = 0; i < arguments.size(); ++i) {
        out.push_back(arguments[i]);
        if (!may_lack_value(arguments[i])) continue;
        const bool named = i + 1 < arguments.size() && !arguments[i + 1].starts_with("-") && there > needed;
        out.back() += named ? "=" + arguments[++i] : std::string("=") + whatever;
        there -= named;
    }
    return out;
}
}  // namespace

std::optional<po::variables_map> parse(const Command& command, const po::options_description& options,
                                       const Words& positional, const Words& arguments,
                                       const std::string& several) {
    po::options_description shown(options);
    shown.add_options()("help,h", "this text");
    po::options_description all(shown);
    if (command.selects) add_options(all, selection_options());
    po::options_description with_positional(all);
    po::positional_options_description order;
    for (const auto& name : positional) {
        with_positional.add_options()((":" + name).c_str(), po::value<std::string>());
        order.add((":" + name).c_str(), 1);
    }
    if (!several.empty()) {
        with_positional.add_options()((":" + several).c_str(), po::value<Words>());
        order.add((":" + several).c_str(), -1);
    }
    check_names(arguments, all, command);
    const auto given = parsed(command.selects ? with_values(arguments, positional.size(), all) : arguments,
                              with_positional, order, command);
    if (given.count("help")) {
        print_help(command, shown);
        return std::nullopt;
    }
    for (const auto& name : positional) {
        if (!given.count(":" + name))
            misuse(fmt::format(
                "undershelf {0} needs {1}.{2} See `undershelf {0} --help`.", command.name, name,
                name == "SOURCE" ? " `undershelf sources` shows the drives that are attached." : ""));
    }
    return given;
}

}  // namespace undershelf::cli
