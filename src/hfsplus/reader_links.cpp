// Links of HFS+: hard links to files and folders are listed as what they mean; those whose inode is lost, as
// links.

#include "base/text.hpp"
#include "hfsplus/private_data.hpp"
#include "hfsplus/reader.hpp"
#include "volume/link_target.hpp"

namespace undershelf::hfsplus {

/// Hard links name an inode file in a private folder, folder links a folder in another one. Both are listed
/// where the links are, with the content of what they mean.
void Reader::resolve_links(EntrySink& sink) {
    std::uint32_t folders = 0;
    for (const auto& [id, place] : folders_) {
        if (place.parent != kHFSRootFolderID) continue;
        if (place.name == private_files) inode_folder_ = id;
        if (place.name == private_folders) folders = id;
    }
    std::unordered_map<std::uint32_t, const Item*> inodes, targets;
    for (const auto& i : set_aside_) {
        if (i.is_hard_link() || i.is_folder_link()) continue;
        if (const auto n = inode_number(i.name); n && inode_folder_ && i.parent == inode_folder_) {
            inodes[*n] = &i;
            inodes_[*n] = i.id;
        }
        if (const auto n = folder_inode_number(i.name); n && folders && i.parent == folders) targets[*n] = &i;
    }
    std::set<std::uint32_t> shown_folders;
    std::vector<std::pair<const Item*, std::uint32_t>> further;  // links, and the folders they mean
    for (const auto& i : set_aside_) {
        auto resolved = i;
        if (i.is_hard_link() && inodes.count(i.special)) {
            resolved = *inodes[i.special];
        } else if (i.is_folder_link() && targets.count(i.special)) {
            resolved = *targets[i.special];
            if (!shown_folders.insert(resolved.id).second) {
                // A folder has one place in the tree; further links to it say where.
                further.emplace_back(&i, resolved.id);
                continue;
            }
        } else {
            continue;
        }
        resolved.parent = i.parent;
        resolved.name = i.name;
        if (resolved.is_dir) folders_[resolved.id] = {i.parent, i.name};
        emit_item(resolved, false, sink);
    }
    emit_folder_links(further, sink);
    for (const auto& i : set_aside_) {
        const bool link =
            (i.is_hard_link() && inodes.count(i.special)) || (i.is_folder_link() && targets.count(i.special));
        if (!link && !shown_folders.count(i.id))
            emit_item(i, (inode_folder_ && i.parent == inode_folder_) || (folders && i.parent == folders),
                      sink);
    }
    set_aside_.clear();
}

/// Once all folders have their places.
void Reader::emit_folder_links(const std::vector<std::pair<const Item*, std::uint32_t>>& links,
                               EntrySink& sink) {
    std::unordered_map<std::uint32_t, std::string> paths;
    for (const auto& [link, folder] : links) {
        const auto [it, fresh] = paths.try_emplace(folder);
        if (fresh) {
            const auto& place = folders_[folder];
            it->second = "/" + path_of(place.parent, place.name);
            // Many links to one deep folder would say it all over again.
            if (it->second.size() > longest_target) it->second = "/.../" + shown(place.name);
        }
        std::vector<Entry> entries;
        composer_.compose(*link, Origin::live, side_, entries, it->second);
        emit(std::move(entries.front()), sink);
    }
}

/// Inodes that are lost themselves, and which of them a lost link names: these are listed as what the link
/// was.
void Reader::gather_lost_inodes() {
    for (const auto& [id, lost] : lost_.items()) {
        const auto place = lost.place();
        const auto n = place && lost.newest() ? inode_number(place->second) : std::nullopt;
        if (n && inode_folder_ && place->first == inode_folder_) lost_inodes_.emplace(*n, id);
    }
    for (const auto& [id, lost] : lost_.items()) {
        const auto* newest = lost.newest();
        if (!newest || !newest->item.is_hard_link() || inodes_.count(newest->item.special)) continue;
        const auto it = lost_inodes_.find(newest->item.special);
        if (it != lost_inodes_.end()) linked_inodes_.insert(it->second);
    }
}

/// A lost name of a live file is listed as an earlier name of that file. False for anything else.
bool Reader::tell_lost_name(const Item& link, EntrySink& sink) const {
    const auto it = link.is_hard_link() ? inodes_.find(link.special) : inodes_.end();
    if (it == inodes_.end()) return false;
    sink.evidence(Composer::key_of(it->second, false),
                  {Fact::old_name, link.source, 0, path_of(link.parent, link.name)});
    return true;
}

/// The file that a lost hard link names, under the link's name; `item` itself for anything else.
Item Reader::meant_by(Item item) const {
    const auto it = item.is_hard_link() ? lost_inodes_.find(item.special) : lost_inodes_.end();
    if (it == lost_inodes_.end()) return item;
    auto out = lost_.items().at(it->second).newest()->item;
    out.parent = item.parent;
    out.name = item.name;
    out.has_key = item.has_key;
    return out;
}

}  // namespace undershelf::hfsplus
