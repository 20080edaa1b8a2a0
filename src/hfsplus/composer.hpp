#pragma once
// From catalogue items to entries: where the content lies, packed contents, and what has no place in a plain
// file, as AppleDouble (RFC 1740). Only looks, so that several threads can compose at a time.

#include <map>
#include <unordered_map>

#include "hfsplus/records.hpp"
#include "volume/model.hpp"

namespace undershelf::hfsplus {

/// What is kept of an attribute.
struct KnownAttribute {
    std::string name;
    std::uint64_t size = 0;         ///< bytes
    ByteVector head;                ///< the first bytes of one kept in its record
    std::vector<ByteRange> places;  ///< of its data in the source
};

/// What the extents overflow and the attributes tell of ids.
class SideRecords {
  public:
    void add(OverflowExtents&& extents);
    void add(std::uint32_t id, KnownAttribute&& attribute) {
        attributes_[id].push_back(std::move(attribute));
    }

    /// The extents of a fork with those in the overflow, as far as they follow on.
    std::vector<Extent> all_extents(const ForkInfo& fork, std::uint32_t id, bool resource) const;
    /// Nothing when it has none.
    const std::vector<KnownAttribute>* attributes(std::uint32_t id) const;

  private:
    std::map<std::pair<std::uint64_t, std::uint32_t>, std::vector<Extent>>
        overflow_;  ///< by id and fork, start
    std::unordered_map<std::uint32_t, std::vector<KnownAttribute>> attributes_;
};

class Composer {
  public:
    Composer(const Source& source, const Geometry& geometry) : source_(source), geometry_(geometry) {}

    /// Appends the entries of an item: its main one, and that of its resource fork or Finder info. `target`:
    /// of a link to a folder the path of that; empty for all else.
    void compose(const Item& item, Origin origin, const SideRecords& side, std::vector<Entry>& out,
                 const std::string& target = {}) const;
    /// Its key, unless its id has been used again.
    static EntryKey key_of(std::uint32_t id, bool is_dir) { return {id, is_dir ? 0u : 1u}; }
    static EntryKey folder_key(std::uint32_t id);

  private:
    void lay_out(Entry& entry, const ForkInfo& fork, const std::vector<Extent>& extents) const;
    void describe_link(Entry& entry, const Item& item, const std::string& target) const;
    bool unpack(Entry& entry, const Item& item, const SideRecords& side) const;
    void unpack_chunks(Entry& entry, const Item& item, const SideRecords& side) const;
    std::optional<Entry> apple_double(const Entry& main, const Item& item, const SideRecords& side,
                                      bool packed_in_fork) const;

    const Source& source_;
    Geometry geometry_;
};

}  // namespace undershelf::hfsplus
