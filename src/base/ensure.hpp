#pragma once
// What can only be wrong through a mistake of our own is looked at in every build: a wrong rating or a file
// in the wrong place would go on unnoticed. Never for what disks, shelves, bags or users say: that gets an
// Error.

#include <source_location>
#include <stdexcept>
#include <string>

namespace undershelf {

/// What had been finished is kept, as after any other error.
class OwnMistake : public std::logic_error {
  public:
    OwnMistake(const char* what, const std::source_location& where)
        : std::logic_error(std::string(what) + " (" + where.file_name() + ":" + std::to_string(where.line()) +
                           ")") {}
};

/// Throws OwnMistake unless it holds. `what` says what is wrong then.
constexpr void ensure(bool holds, const char* what,
                      const std::source_location& where = std::source_location::current()) {
    if (!holds) [[unlikely]]
        throw OwnMistake(what, where);
}

}  // namespace undershelf
