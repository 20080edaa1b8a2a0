#pragma once
// Evidence in words: what each fact says, so that a technician understands every step to the number.

#include <functional>
#include <string>

#include "volume/model.hpp"

namespace undershelf {

/// One sentence, without its effect. `name_of` turns an entry's id into a name to show.
std::string explain(const Evidence& evidence, const std::function<std::string(std::int64_t)>& name_of);

}  // namespace undershelf
