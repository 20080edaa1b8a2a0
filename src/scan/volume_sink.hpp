#pragma once
// Takes the entries of one volume, gives them their ids and folders, and hands them to the shelf.

#include <map>

#include "shelf/writer.hpp"
#include "volume/file_system.hpp"
#include "volume/tree.hpp"

namespace undershelf {

class VolumeSink final : public EntrySink {
  public:
    VolumeSink(const Volume& volume, std::uint64_t source_size, ShelfWriter& shelf, Progress& progress);
    void entry(Entry&& entry) override;
    void evidence(const EntryKey& key, Evidence&& evidence) override;
    void old_name(const EntryKey& key, const OldName& name) override;
    void lay_anew(const EntryKey& key, Relayout&& layout) override;
    void in_use(const ByteRange& range) override;
    void diagnostic(std::string sentence) override;
    /// Writes paths, stand-in folders and late evidence. To be called once, also after an interruption.
    void finish();

  private:
    std::int64_t id_of(const EntryKey& key, std::string_view stream, std::string_view name);
    void tell_old_names();
    void make_former(Entry& entry) const;
    void write_stand_in(const TreeBuilder::Node& node);
    void write_settled(const TreeBuilder::Node& node, const std::string& path);

    const Volume& head_;
    int volume_;
    ShelfWriter& shelf_;
    Progress& progress_;
    TreeBuilder tree_;
    std::map<EntryKey, std::vector<OldName>> old_names_;
    std::vector<std::pair<EntryKey, Evidence>> late_;
    std::vector<std::pair<EntryKey, Relayout>> layouts_;
    std::uint64_t found_ = 0;
    std::uint64_t diagnostics_ = 0;
    std::uint64_t moved_ = 0;  ///< folders that are at the root for want of a better place
};

}  // namespace undershelf
