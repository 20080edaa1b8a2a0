#pragma once
// A shelf of an image of which more has been copied since: what was read of it is read again where that
// changes anything, and everything keeps its number.

#include "shelf/writer.hpp"
#include "source/source.hpp"

namespace undershelf {

class Refresh {
  public:
    /// `unreadable_list`: path of ranges that are treated as unreadable all the same, or empty.
    Refresh(const Source& source, ShelfWriter& shelf, const std::string& unreadable_list);

    /// What can be read now and could not when the shelf was made, or until an interrupted refresh is done.
    const RangeSet& gained() const { return gained_; }
    bool needed() const { return !gained_.empty(); }
    /// Present volumes are to be read again. To be called before anything is read.
    void begin();
    /// All of it is in the shelf.
    void end();

  private:
    const Source& source_;
    ShelfWriter& shelf_;
    RangeSet gained_;
};

}  // namespace undershelf
