#pragma once
// Records and index blocks that a present volume has left behind: copies of its records, index blocks of its
// folders that moved or are gone, also after its end where it was larger once. They make no former volume.

#include <list>

#include "ntfs/mft.hpp"
#include "volume/settling.hpp"

namespace undershelf::ntfs {

/// A present volume's table, as far as it tells one life of a volume from another: files have one birth.
class OwnLeftovers {
  public:
    /// Of a volume with a head; of one without, nothing is anybody's.
    OwnLeftovers(const Source& source, const Volume& volume);

    /// Does the record at this place of the source, of this number, hold a file that the volume has in its
    /// own record of that number?
    bool has_record(std::uint64_t place, std::uint64_t number) const;
    /// Does the index block there name such files, or what was made in one of its folders after that was?
    bool has_block(std::uint64_t place) const;

  private:
    /// The volume's own record; no bytes for none.
    Bytes own_record(std::uint64_t number) const;
    bool knows(std::uint64_t number, const std::vector<std::int64_t>& births) const;
    bool made_in_its_folder(const Name& name) const;

    const Source& source_;
    Volume volume_;
    std::optional<Geometry> geometry_;
    std::optional<Mft> table_;
    mutable RecordWindow window_{4 << 10};
    /// After so many lookups nothing more is called its own: no volume leaves that much, but a source made to
    /// annoy does.
    mutable std::uint64_t lookups_left_ = 1 << 20;
};

/// Those of all present NTFS volumes.
class AllOwnLeftovers {
  public:
    explicit AllOwnLeftovers(const Settling& settling);
    bool has_record(std::uint64_t place, std::uint64_t number) const;
    bool has_block(std::uint64_t place) const;

  private:
    std::list<OwnLeftovers> volumes_;
};

}  // namespace undershelf::ntfs
