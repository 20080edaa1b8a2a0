#pragma once
// What every entry must fulfil before anybody works with it, whichever reader it comes from.

#include "volume/budget.hpp"
#include "volume/model.hpp"

namespace undershelf {

/// Makes an entry's numbers fit to be kept and compared: a size that no file can have is cut, pieces stay
/// within the size, and claims within the volume's budget. What was changed is said in the entry's evidence.
void admit(Entry& entry, const Volume& volume, Budget& budget);

}  // namespace undershelf
