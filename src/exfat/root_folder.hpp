#pragma once
// The root folder's entries of the volume itself: bitmap, up-case table, label. They may be anywhere in
// its chain.

#include <functional>
#include <string>

#include "clusters/chain.hpp"
#include "exfat/structures.hpp"
#include "source/source.hpp"

namespace undershelf::exfat {

class RootFolder {
  public:
    /// `first`: its first cluster.
    RootFolder(const Source& source, const clusters::Grid& grid, const clusters::TableEntries& fat,
               clusters::Cluster first);

    /// Hands over the slots up to the end mark, one after the other, as long as `go_on` returns true. Looks
    /// at no more than 16 MiB of them.
    void visit(const std::function<bool(Bytes slot)>& go_on) const;
    /// The first entry of this type.
    template <class EntryType>
    std::optional<EntryType> find(std::uint8_t type) const {
        std::optional<EntryType> found;
        visit([&](Bytes slot) {
            if (slot[0] == type) found = load<EntryType>(slot);
            return !found;
        });
        return found;
    }

    /// The volume's label; empty for none.
    std::string label() const;

  private:
    const Source& source_;
    std::vector<ByteRange> ranges_;
};

}  // namespace undershelf::exfat
