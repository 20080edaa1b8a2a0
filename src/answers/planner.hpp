#pragma once
// The next step, worked out from facts: for every command that says what to do next.

#include "answers/facts.hpp"
#include "answers/steps.hpp"
#include "export/verify.hpp"

namespace undershelf {

/// Warnings first, then steps in the order in which technicians work: finish what was begun, secure, search,
/// check, look, choose, export, verify. Only what can bring something. Without any step left it says that it
/// is over, and what keeps the rest from coming back. What leaves nothing in the shelf (look, peek, verify)
/// is only said by the command before it.
Plan plan(const Facts& facts);

/// After `verify`: how many differences the export at `folder` has.
Plan plan_after_verify(const std::string& folder, const Verification& found);

/// The passes that are not done yet, with the command of the next one; empty where all are done.
std::string what_is_not_done(const Shelf& shelf);

/// Why a search for contents is worth its time, in words that go after "as"; empty where it is not.
std::vector<std::string> reasons_for_contents(const Facts& facts);
std::vector<std::string> reasons_for_sweep(const Facts& facts);

}  // namespace undershelf
