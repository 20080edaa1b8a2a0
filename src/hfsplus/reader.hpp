#pragma once
// Streams the entries of one present HFS+ or HFSX volume. reader.cpp reads the live catalogue;
// reader_lost.cpp what free space of the trees and the journal tell of items that are gone.

#include <set>
#include <unordered_map>
#include <vector>

#include "base/bit_set.hpp"
#include "hfsplus/btree.hpp"
#include "hfsplus/composer.hpp"
#include "hfsplus/former.hpp"
#include "hfsplus/lost_items.hpp"
#include "volume/file_system.hpp"

namespace undershelf::hfsplus {

/// By what a name in a folder is known again.
std::uint64_t place_print(std::uint32_t parent, const std::u16string& name);

class Reader final : public VolumeReader {
  public:
    Reader(const Source& source, const Volume& volume, const HFSPlusVolumeHeader& header)
        : Reader(source, volume, header, std::nullopt) {}
    /// With trees found before, where no header leads to them: then nothing but its block size and number of
    /// blocks counts.
    Reader(const Source& source, const Volume& volume, const HFSPlusVolumeHeader& header,
           std::optional<FormerTrees> trees);
    void read(EntrySink& sink, Progress& progress) override;
    void remnants(EntrySink& sink, Progress& progress) override;
    std::vector<Structure> structures(Progress& progress) override;

  private:
    /// A live item, as far as leftovers are held against it.
    struct Live {
        std::uint32_t id = 0, created = 0;
        std::uint64_t print = 0;  ///< of parent and name
        auto operator<=>(const Live&) const = default;
    };
    struct Batch;
    /// Leftovers as they were found, before they are held against the live catalogue.
    struct Found {
        std::vector<Item> items;
        std::vector<Thread> threads;
        std::vector<BareName> names;

        Leftovers sink();
        void append(Found&& more);
    };

    Fork special_fork(const HFSPlusForkData& fork, std::uint32_t id) const;
    BTree open_tree(const HFSPlusForkData& fork, std::uint32_t id, const char* name, EntrySink& sink) const;
    void read_side_trees(EntrySink& sink);
    KnownAttribute known(const Attribute& attribute, const BTree& tree, std::uint64_t node_offset) const;
    void read_catalogue(EntrySink& sink, Progress& progress);
    Batch parse(std::uint64_t from, std::uint64_t to, ByteVector& bytes) const;
    void parse_leaf(const Node& node, bool whole, std::uint64_t offset, Batch& batch) const;
    void emit(Entry&& entry, EntrySink& sink);
    void emit_item(const Item& item, bool system, EntrySink& sink);
    void keep_newest();
    void resolve_links(EntrySink& sink);
    void emit_folder_links(const std::vector<std::pair<const Item*, std::uint32_t>>& links, EntrySink& sink);
    void gather_lost_inodes();
    bool tell_lost_name(const Item& link, EntrySink& sink) const;
    Item meant_by(Item item) const;
    void report_unowned(EntrySink& sink);

    void read_side_leftovers();
    void add_lost_attribute(std::uint32_t id, KnownAttribute&& attribute);
    void read_journal_images(EntrySink& sink, Progress& progress);
    void take(Item&& item, std::uint64_t order);
    void emit_lost(EntrySink& sink, Progress& progress);
    void emit_lost_item(std::uint32_t id, const LostItems::Lost& lost, EntrySink& sink);
    void gather_dates();
    void argue_date(std::uint32_t id, Entry& entry) const;
    void emit_bare_name(const BareName& name, EntrySink& sink);
    void take_found(Found&& found, std::uint64_t order);
    /// The live item of an id, if it is this one: ids may have been used again. Nothing otherwise.
    const Live* live_of(std::uint32_t id, std::uint32_t created) const;
    std::string path_of(std::uint32_t folder, const std::u16string& name) const;

    const Source& source_;
    Volume volume_;
    HFSPlusVolumeHeader header_;
    Geometry geometry_;
    Composer composer_;
    std::optional<FormerTrees> former_;
    SideRecords side_;
    BTree extents_, catalogue_, attributes_;
    Bounds bounds_;
    BitSet taken_;            ///< blocks held by live files
    std::vector<Live> live_;  ///< sorted once the catalogue is read
    std::vector<std::uint64_t> live_prints_;
    struct FolderPlace {
        std::uint32_t parent = 0;
        std::u16string name;
    };
    std::unordered_map<std::uint32_t, FolderPlace> folders_;
    std::vector<Item> set_aside_;  ///< links and what may be in a private folder
    std::uint32_t inode_folder_ = 0;
    /// Ids of inodes, by their numbers; of the lost ones those that a lost link names.
    std::unordered_map<std::uint32_t, std::uint32_t> inodes_, lost_inodes_;
    std::set<std::uint32_t> linked_inodes_;
    Found found_;  ///< in the catalogue
    LostItems lost_;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> dates_;   ///< of creation, by id
    std::set<std::pair<std::uint32_t, std::uint64_t>> old_names_;  ///< of live items: id and print
    std::vector<std::pair<std::uint32_t, std::pair<std::uint32_t, std::u16string>>> renames_;
};

}  // namespace undershelf::hfsplus
