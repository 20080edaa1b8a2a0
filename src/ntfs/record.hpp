#pragma once
// File records: fixups, attributes, run lists.

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "base/byte_range.hpp"
#include "base/bytes.hpp"
#include "ntfs/geometry.hpp"
#include "volume/budget.hpp"

namespace undershelf::ntfs {

/// One attribute of a record. `bytes` holds it whole, head included.
struct Attribute {
    std::uint32_t type = 0;
    bool resident = true;
    Bytes bytes;

    /// Its own name, empty for the unnamed one.
    std::u16string name() const;
    /// Content of a resident attribute; empty when its bounds lie.
    Bytes value() const;
};

/// Undoes the update sequence array of a record or index block (`sign` and fixups already there). False when
/// a sector is torn or the array does not fit.
bool undo_fixups(MutableBytes record, std::uint32_t sector_size = 512);

/// The number that a record says it has: the low 32 bits, which are after its head. Nothing in records of
/// the older form, whose update sequence array is there instead; some of today's drivers still write it.
std::optional<std::uint64_t> own_number(Bytes record);

/// The attributes of a record whose fixups are undone, as far as their lengths make sense; one after the
/// other, since tables have millions of records.
class Attributes {
  public:
    explicit Attributes(Bytes record);

    class Iterator {
      public:
        Iterator() = default;
        Iterator(Bytes record, std::size_t at) : record_(record), at_(at) { look(); }
        const Attribute& operator*() const { return now_; }
        Iterator& operator++();
        bool operator==(const Iterator& o) const { return at_ == o.at_; }

      private:
        void look();
        Bytes record_;
        std::size_t at_ = end_;
        Attribute now_;
        static constexpr std::size_t end_ = SIZE_MAX;
    };
    Iterator begin() const { return first_; }
    Iterator end() const { return {}; }

  private:
    Iterator first_;
};
inline Attributes attributes_of(Bytes record) {
    return Attributes(record);
}

/// A run of clusters; `sparse` ones have no place.
struct Run {
    std::uint64_t lcn = 0;
    std::uint64_t count = 0;
    bool sparse = false;
};
/// Clusters that the largest possible file has.
inline std::uint64_t most_clusters(const Geometry& geometry) {
    return bound::file_size / geometry.cluster_size;
}
std::uint64_t cluster_total(const std::vector<Run>& runs);
/// The run list of a non-resident attribute; nothing when it is broken, leaves the volume or is longer than
/// any file can be.
std::optional<std::vector<Run>> runs_of(const Attribute& attribute, const Geometry& geometry);
/// The same on a volume that has, or had, so many clusters.
std::optional<std::vector<Run>> runs_of(const Attribute& attribute, const Geometry& geometry,
                                        std::uint64_t clusters);

}  // namespace undershelf::ntfs
