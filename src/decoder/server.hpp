#pragma once
// The process that reads contents: it is asked for one after the other, and asks for the bytes it needs.

namespace undershelf {

/// Answers on `socket` until it is closed. Returns an exit status.
int serve_contents(int socket);

}  // namespace undershelf
