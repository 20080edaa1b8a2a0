#include "source/mounts.hpp"

#include <fmt/format.h>
#include <libmount.h>
#include <sys/sysmacros.h>

#include <memory>

namespace undershelf {

namespace {

template <auto release>
struct Releasing {
    template <class T>
    void operator()(T* object) const {
        release(object);
    }
};
using TablePointer = std::unique_ptr<libmnt_table, Releasing<mnt_unref_table>>;
using WalkPointer = std::unique_ptr<libmnt_iter, Releasing<mnt_free_iter>>;

std::string text_or_nothing(const char* text) {
    return text ? text : "";
}

MountLine line_of(libmnt_fs* fs) {
    MountLine out;
    const auto device = mnt_fs_get_devno(fs);
    out.device = fmt::format("{}:{}", major(device), minor(device));
    out.point = text_or_nothing(mnt_fs_get_target(fs));
    out.options = text_or_nothing(mnt_fs_get_vfs_options(fs));
    if (const auto more = text_or_nothing(mnt_fs_get_fs_options(fs)); !more.empty())
        out.options += "," + more;
    out.from = text_or_nothing(mnt_fs_get_source(fs));
    out.type = text_or_nothing(mnt_fs_get_fstype(fs));
    return out;
}

}  // namespace

std::string MountLine::option(const std::string& name) const {
    char* value = nullptr;
    std::size_t size = 0;
    if (mnt_optstr_get_option(options.c_str(), name.c_str(), &value, &size) != 0 || !value) return {};
    return {value, size};
}

bool MountLine::has_option(const std::string& option) const {
    return mnt_optstr_get_option(options.c_str(), option.c_str(), nullptr, nullptr) == 0;
}

std::vector<MountLine> read_mounts(const std::string& mount_table) {
    std::vector<MountLine> out;
    const TablePointer table(mnt_new_table_from_file(mount_table.c_str()));
    const WalkPointer walk(mnt_new_iter(MNT_ITER_FORWARD));
    libmnt_fs* fs = nullptr;
    while (table && walk && mnt_table_next_fs(table.get(), walk.get(), &fs) == 0) out.push_back(line_of(fs));
    return out;
}

}  // namespace undershelf
