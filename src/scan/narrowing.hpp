#pragma once
// Which contents a scan is about, where somebody wants only some.

#include <string>
#include <vector>

#include "content/formats.hpp"

namespace undershelf {

/// Empty lists allow everything.
struct Narrowing {
    std::vector<Kind> kinds;
    std::vector<std::string> exts;     ///< lower case, no dot
    std::vector<std::string> formats;  ///< words of formats()

    bool empty() const { return kinds.empty() && exts.empty() && formats.empty(); }
    bool wants(const Format& format) const;
    /// Is a content that begins like this format one that is wanted, whichever of its family it is?
    bool may_want(const Format& start) const;
    /// May a file of this extension (lower case, no dot) have a content that is wanted? One that promises
    /// nothing may.
    bool may_want_name(std::string_view ext) const;
    /// Is a file of this extension (lower case, no dot) one of those that are asked for by name?
    bool wants_name(std::string_view ext) const;
    /// Is everything wanted among these words?
    bool within(std::string_view words) const;
    /// The words of all formats that are wanted, in their order, with spaces around each.
    std::string words() const;
    /// These contents, and those of the words.
    Narrowing joined(std::string_view words) const;
};

}  // namespace undershelf
