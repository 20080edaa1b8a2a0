"""A volume written and deleted by the Linux kernel's own driver, in a small emulated guest, so that no rights and no kernel modules
of the machine are needed. Needs qemu-system-x86, busybox-static, kmod, cpio and apt-get, which fetches Debian's kernel package."""
import glob
import io
import os
import shlex
import shutil
import subprocess
import tarfile
import tempfile

import theatre

MODULES = "virtio_pci virtio_blk nls_utf8 nls_cp437 nls_ascii vfat exfat hfsplus"
STORE = os.path.join(tempfile.gettempdir(), "theatre-guest")
INIT = """#!/bin/busybox sh
/bin/busybox mkdir -p /sbin /usr/bin /usr/sbin; /bin/busybox --install -s
mount -t proc p /proc; mount -t sysfs s /sys; mount -t devtmpfs d /dev
for m in $(cat /lib/order); do insmod /lib/$m; done
mount -t tmpfs -o size=400m t /job; cd /job; tar xf /dev/vdb; sh /job/run.sh 2>&1; sync; echo GUEST-DONE
poweroff -f
"""


def guest_kernel():
    """Kernel image and initial file system of the guest, made on first use."""
    tree, initrd = os.path.join(STORE, "kernel"), os.path.join(STORE, "initrd.gz")
    os.makedirs(STORE, exist_ok=True)
    if not glob.glob(tree + "/boot/vmlinuz-*"):
        depends = subprocess.run(["apt-cache", "depends", "linux-image-amd64"], capture_output=True, text=True, check=True).stdout
        name = next(line.split()[1] for line in depends.splitlines() if "Depends: linux-image" in line)
        subprocess.run(["apt-get", "download", name], cwd=STORE, check=True, stderr=subprocess.DEVNULL)
        subprocess.run(["dpkg", "-x", glob.glob(STORE + "/linux-image*.deb")[0], tree], check=True)
    kernel = glob.glob(tree + "/boot/vmlinuz-*")[0]
    version = os.path.basename(kernel).removeprefix("vmlinuz-")
    if not os.path.exists(initrd):
        subprocess.run(["depmod", "-b", tree, version], stderr=subprocess.DEVNULL)
        with tempfile.TemporaryDirectory() as root:
            for d in "bin lib mnt dev proc sys job".split():
                os.mkdir(os.path.join(root, d))
            shutil.copy("/bin/busybox", root + "/bin/")
            order = []
            for module in MODULES.split():
                found = subprocess.run(["modprobe", "-d", tree, "-S", version, "--show-depends", module], capture_output=True, text=True).stdout
                for line in found.splitlines():
                    if line.startswith("insmod") and line.split()[1] not in order:
                        order.append(line.split()[1])
                        shutil.copy(order[-1], root + "/lib/")
            with open(root + "/lib/order", "w") as f:
                f.write("\n".join(map(os.path.basename, order)) + "\n")
            with open(root + "/init", "w") as f:
                f.write(INIT)
            os.chmod(root + "/init", 0o755)
            subprocess.run(f"find . | cpio -o -H newc 2>/dev/null | gzip -1 > {shlex.quote(initrd)}", shell=True, cwd=root, check=True)
    return kernel, initrd


class GuestVolume:
    """Collects what is to be done, and does it when run() is called. Paths are relative to the volume's root; times are UTC."""

    def __init__(self, path, driver, now):
        self.path, self.driver = path, driver
        options = {"vfat": "utf8,shortname=mixed", "exfat": "iocharset=utf8", "hfsplus": "force"}[driver]
        self.mount = f"mount -t {driver} -o {options} /dev/vda /mnt || echo GUEST-FAILED"
        self.files = {}
        self.script = []
        self.at(now)
        self.script.append(self.mount)

    def do(self, *command):
        self.script.append(shlex.join(command) + " || echo GUEST-FAILED")

    def at(self, now):
        self.now = now
        self.script.append(f"date -u -s '{now}' >/dev/null")

    def folder(self, *paths):
        for p in paths:
            self.do("mkdir", "/mnt/" + p)

    def put(self, path, size, kind=None):
        name = f"content{len(self.files)}"
        self.files[name] = theatre.make(path, size, kind)
        self.do("cp", "/job/" + name, "/mnt/" + path)

    def weave(self, chunk, **sizes):
        """Writes several files in turn, `chunk` bytes of each at a time. sizes: bytes by path."""
        contents = {}
        for path, size in sizes.items():
            contents[path] = f"content{len(self.files)}", theatre.make(path, size)
            self.files[contents[path][0]] = contents[path][1]
            self.do("touch", "/mnt/" + path)
        for turn in range(-(-max(len(data) for _, data in contents.values()) // chunk)):
            for path, (name, data) in contents.items():
                if turn * chunk < len(data):
                    self.do("dd", f"if=/job/{name}", f"of=/mnt/{path}", f"bs={chunk}", "count=1", f"skip={turn}", f"seek={turn}", "conv=notrunc,fsync")

    def delete(self, *paths):
        for p in paths:
            self.do("rm", "/mnt/" + p)

    def delete_tree(self, path):
        self.do("rm", "-r", "/mnt/" + path)

    def move(self, path, to):
        self.do("mv", "/mnt/" + path, "/mnt/" + to)

    def link(self, path, to):
        self.do("ln", "/mnt/" + path, "/mnt/" + to)

    def remount(self):
        self.script.append("sync; umount /mnt; " + self.mount)

    def run(self):
        kernel, initrd = guest_kernel()
        with tempfile.TemporaryDirectory() as work:
            tape = os.path.join(work, "in.tar")
            with tarfile.open(tape, "w", format=tarfile.USTAR_FORMAT) as t:
                script = "\n".join([*self.script, "sync; cd /; umount /mnt"]).encode()
                for name, data in {"run.sh": script, **self.files}.items():
                    info = tarfile.TarInfo(name)
                    info.size = len(data)
                    t.addfile(info, io.BytesIO(data))
            with open(tape, "ab") as f:
                f.truncate((f.tell() // (1 << 20) + 1) << 20)
            out = subprocess.run(["qemu-system-x86_64", "-accel", "tcg", "-m", "1024", "-nographic", "-no-reboot", "-kernel", kernel, "-initrd", initrd,
                                  "-append", "console=ttyS0 quiet panic=-1 loglevel=3 no_timer_check",
                                  "-drive", f"file={self.path},format=raw,if=virtio,cache=unsafe", "-drive", f"file={tape},format=raw,if=virtio,cache=unsafe"],
                                 capture_output=True, timeout=900).stdout.decode(errors="replace")
        if "GUEST-DONE" not in out or "GUEST-FAILED" in out:
            raise RuntimeError("the guest failed:\n" + out[-3000:])
