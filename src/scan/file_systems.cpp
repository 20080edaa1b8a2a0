#include "scan/file_systems.hpp"

#include "exfat/file_system.hpp"
#include "fat/file_system.hpp"
#include "hfsplus/file_system.hpp"
#include "ntfs/file_system.hpp"

namespace undershelf {

const std::vector<const FileSystem*>& file_systems() {
    static const std::vector<const FileSystem*> all{
        &fat::file_system(),
        &exfat::file_system(),
        &ntfs::file_system(),
        &hfsplus::file_system(),
    };
    return all;
}

const FileSystem* file_system_of(const Volume& volume) {
    for (const auto* fs : file_systems()) {
        if (fs->family() == volume.family) return fs;
    }
    return nullptr;
}

}  // namespace undershelf
