#include "systems/file_systems.hpp"

#include <algorithm>

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

const FileSystem* file_system_named(std::string_view system) {
    for (const auto* fs : file_systems()) {
        const auto names = fs->systems();
        if (std::find(names.begin(), names.end(), system) != names.end()) return fs;
    }
    return nullptr;
}

std::vector<std::string_view> system_names() {
    std::vector<std::string_view> out;
    for (const auto* fs : file_systems()) {
        for (const auto name : fs->systems()) out.push_back(name);
    }
    return out;
}

}  // namespace undershelf
