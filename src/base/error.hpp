#pragma once
// The ways in which work can be refused or fail. Messages are whole sentences that name the thing, the place
// and what to do about it.

#include <atomic>
#include <stdexcept>
#include <string>

namespace undershelf {

enum class Trouble {
    usage,    ///< what was asked for makes no sense
    input,    ///< a source, shelf or other file cannot be read or understood
    refused,  ///< refused so that nothing is lost
    output,   ///< what was asked for cannot be written out
};

class Error : public std::runtime_error {
  public:
    Error(Trouble trouble, const std::string& sentence) : std::runtime_error(sentence), trouble_(trouble) {}
    Trouble trouble() const { return trouble_; }

  private:
    Trouble trouble_;
};

/// Set from outside (a signal handler); long work looks at it often and ends early with what it has.
using StopFlag = std::atomic<int>;

}  // namespace undershelf
