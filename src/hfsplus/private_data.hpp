#pragma once
// The private folders in which HFS+ keeps what hard links mean (Apple, TN1150, "Hard Links"), and other items
// that are the driver's own.

#include <optional>
#include <string>

#include "hfsplus/records.hpp"

namespace undershelf::hfsplus {

/// Names of the folders at the root that hold the inodes of files and of folders.
extern const std::u16string private_files, private_folders;

/// The number in the name of a file's inode, such as iNode123; nothing when it is another name.
std::optional<std::uint32_t> inode_number(const std::u16string& name);
/// The number in the name of a folder's inode, such as dir_123.
std::optional<std::uint32_t> folder_inode_number(const std::u16string& name);

/// Has it a name as items in private folders have?
bool may_be_private(const Item& item);
/// One of the driver's own at the root: a private folder, the journal, the list of files used most.
bool is_system_name(const Item& item);

}  // namespace undershelf::hfsplus
