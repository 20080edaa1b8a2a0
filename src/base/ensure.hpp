#pragma once
// What can only be wrong through a mistake of our own is looked at in every build: a wrong rating or a file
// in the wrong place would go on unnoticed. Never for what disks, shelves, bags or users say: that gets an
// Error.

#include <stdexcept>
#include <string>

namespace undershelf {

/// What had been finished is kept, as after any other error.
class OwnMistake : public std::logic_error {
  public:
    OwnMistake(const char* what, const char* file, int line)
        : std::logic_error(std::string(what) + " (" + file + ":" + std::to_string(line) + ")") {}
};

/// Throws OwnMistake unless it holds. `what` says what is wrong then; the place is that of the call.
/// (std::source_location is not there for every compiler of Debian 12.)
constexpr void ensure(bool holds, const char* what, const char* file = __builtin_FILE(),
                      int line = __builtin_LINE()) {
    if (!holds) [[unlikely]]
        throw OwnMistake(what, file, line);
}

}  // namespace undershelf
