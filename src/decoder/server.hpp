#pragma once
// The process that reads contents: it is asked for one after the other, and asks for the bytes it needs.

#include "drawing/module.hpp"

namespace undershelf {

/// `drawing`: what draws, where that is what it is for. Answers on `socket` until it is closed. Returns an
/// exit status.
int serve_contents(int socket, const drawing::Module* drawing = nullptr);

/// Bytes of its own that this process has before it is asked anything; looked at when it is first called,
/// which must be before the wall is closed.
std::uint64_t own_data();

}  // namespace undershelf
