#pragma once
// The tags of markup, one after the other, for those who know what they look for: nothing is checked.

#include <functional>
#include <string>
#include <string_view>

namespace undershelf::content {

struct XmlTag {
    std::string_view name;        ///< without a prefix; of one that closes, after its slash
    std::string_view attributes;  ///< as they are written
    bool closes = false, empty = false;
    std::string_view after;  ///< the text up to the next tag, as it is written

    /// A value, entities undone; empty where it has none.
    std::string attribute(std::string_view name) const;
};

/// Calls `visit` for each until it says false.
void for_each_tag(std::string_view text, const std::function<bool(const XmlTag&)>& visit);

}  // namespace undershelf::content
