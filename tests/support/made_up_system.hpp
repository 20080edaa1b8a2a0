#pragma once
// A made-up system below a folder: sysfs, udev's files, mounts and swaps, with drives of the theatre.

#include <filesystem>
#include <string>

#include "support/temporary_folder.hpp"

namespace undershelf::test {

class MadeUpSystem {
  public:
    explicit MadeUpSystem(const TemporaryFolder& folder) : folder_(folder) {
        file("proc/self/mountinfo", "");
        file("proc/swaps", "Filename Type Size Used Priority\n");
    }

    void file(const std::string& name, const std::string& text) {
        std::filesystem::create_directories((folder_.path() / name).parent_path());
        folder_.write(name, text);
    }

    /// A stick with one partition: sdq, on USB, with a device file.
    void add_stick() {
        const std::string at = "sys/devices/pci/usb1/host6/block/sdq/";
        add_drive("sdq", at, "65:0", "134217728");
        file(at + "removable", "1\n");
        file(at + "queue/rotational", "0\n");
        file(at + "queue/discard_max_bytes", "2147450880\n");
        file(at + "device/ioerr_cnt", "0x0\n");
        file(at + "device/model", "Lantern 64  \n");
        file(at + "device/serial", "CL-0042\n");
        add_partition(at, "sdq1", "65:1", "2048", "134215680");
        file("run/udev/data/b65:1",
             "S:disk/by-label/GREEN\\x20ROOM\nE:ID_FS_TYPE=vfat\nE:ID_FS_LABEL=GREEN_ROOM\n"
             "E:ID_FS_LABEL_ENC=GREEN\\x20ROOM\n");
        file("dev/sdq", "");
    }

    /// The disk that the system runs from: two partitions, the second one to swap to.
    void add_system_disk() {
        const std::string at = "sys/devices/pci/ata1/host0/block/sda/";
        add_drive("sda", at, "8:0", "1953525168");
        file(at + "queue/rotational", "1\n");
        file(at + "device/model", "Fly Loft 1000\n");
        add_partition(at, "sda1", "8:1", "2048", "1900000000");
        add_partition(at, "sda2", "8:2", "1900002048", "50000000");
        file("run/udev/data/b8:0", "E:ID_SERIAL_SHORT=FL-77\nE:ID_BUS=ata\n");
        file("dev/sda", "");
    }

    void add_drive(const std::string& name, const std::string& at, const std::string& number,
                   const std::string& sectors) {
        file(at + "dev", number + "\n");
        file(at + "size", sectors + "\n");
        file(at + "ro", "0\n");
        link("sys/block/" + name, at);
        link("sys/dev/block/" + number, at);
    }

  private:
    void add_partition(const std::string& at, const std::string& name, const std::string& number,
                       const std::string& start, const std::string& sectors) {
        const auto here = at + name + "/";
        file(here + "partition", "1\n");
        file(here + "dev", number + "\n");
        file(here + "start", start + "\n");
        file(here + "size", sectors + "\n");
        link("sys/dev/block/" + number, here);
    }
    void link(const std::string& from, const std::string& to) {
        std::filesystem::create_directories((folder_.path() / from).parent_path());
        std::filesystem::create_symlink(folder_.path() / to.substr(0, to.size() - 1), folder_.path() / from);
    }

    const TemporaryFolder& folder_;
};

}  // namespace undershelf::test
