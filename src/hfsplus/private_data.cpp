#include "hfsplus/private_data.hpp"

#include <cstdint>
#include <string_view>

#include "hfsplus/structures.hpp"

namespace undershelf::hfsplus {

const std::u16string private_files = std::u16string(4, u'\0') + u"HFS+ Private Data";
const std::u16string private_folders = u".HFS+ Private Directory Data\r";

namespace {

std::optional<std::uint32_t> numbered(const std::u16string& name, std::u16string_view before) {
    if (!std::u16string_view(name).starts_with(before) || name.size() == before.size()) return std::nullopt;
    std::uint64_t n = 0;
    for (std::size_t i = before.size(); i < name.size(); ++i) {
        if (name[i] < u'0' || name[i] > u'9' || n > UINT32_MAX) return std::nullopt;
        n = n * 10 + (name[i] - u'0');
    }
    return n <= UINT32_MAX ? std::optional(static_cast<std::uint32_t>(n)) : std::nullopt;
}

}  // namespace

std::optional<std::uint32_t> inode_number(const std::u16string& name) {
    return numbered(name, u"iNode");
}

std::optional<std::uint32_t> folder_inode_number(const std::u16string& name) {
    return numbered(name, u"dir_");
}

bool may_be_private(const Item& i) {
    return inode_number(i.name) || folder_inode_number(i.name) || numbered(i.name, u"temp");
}

bool is_system_name(const Item& i) {
    return i.parent == kHFSRootFolderID &&
           (i.name == private_files || i.name == private_folders || i.name == u".journal" ||
            i.name == u".journal_info_block" || i.name == u".hotfiles.btree");
}

}  // namespace undershelf::hfsplus
