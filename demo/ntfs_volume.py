"""An NTFS volume on an image, written and deleted with ntfs-3g. Needs ntfs-3g and its tools, faketime, attr, and /dev/fuse."""
import os
import struct
import subprocess
import tempfile
import time

import theatre

SID = "$RECYCLE.BIN/S-1-5-21-1001-2002-3003-1000"


class NtfsVolume:
    """One mount after the other, each under its own made-up clock."""

    def __init__(self, path, size, label, now, cluster=4096, keep=False):
        """keep: formats over what is there."""
        if not keep:
            with open(path, "wb") as f:
                f.truncate(size)
        self.path, self.now = path, now
        self.folder_on_host = tempfile.mkdtemp()
        subprocess.run(["faketime", "-f", now, "mkntfs", "-q", "-F", "-c", str(cluster), "-L", label, path], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
                       env=dict(os.environ, TZ="UTC"))
        self.mounted = False
        self.at(now)

    def at(self, now):
        self.close()
        self.now = now
        # In the foreground, since the made-up clock's helper waits for everything it began.
        self.driver = subprocess.Popen(["faketime", "-f", now, "ntfs-3g", "-o", "no_detach,streams_interface=windows,compression", self.path,
                                        self.folder_on_host], env=dict(os.environ, TZ="UTC"), stderr=subprocess.DEVNULL)
        while not os.path.ismount(self.folder_on_host):
            if self.driver.poll() is not None:
                raise RuntimeError("ntfs-3g did not mount the volume")
            time.sleep(0.05)
        self.mounted = True

    def close(self):
        if not self.mounted:
            return
        subprocess.run(["umount", self.folder_on_host], check=True)
        self.driver.wait(30)
        self.mounted = False

    def place(self, path):
        return os.path.join(self.folder_on_host, path)

    def stamp(self, path):
        subprocess.run(["touch", "-d", self.now + " UTC", self.place(path)], check=True)

    def folder(self, *paths):
        for p in paths:
            os.makedirs(self.place(p), exist_ok=True)

    def write(self, path, data):
        theatre.note(path, data)
        with open(self.place(path), "wb") as f:
            f.write(data)
        self.stamp(path.split(":")[0])

    def put(self, path, size, kind=None):
        self.write(path, theatre.make(path, size, kind))

    def compress(self, path):
        """New files in this folder are stored compressed."""
        subprocess.run(["setfattr", "-h", "-v", "0x10080000", "-n", "system.ntfs_attrib", self.place(path)], check=True)

    def delete(self, *paths):
        for p in paths:
            os.remove(self.place(p))

    def delete_tree(self, path):
        subprocess.run(["rm", "-r", self.place(path)], check=True)

    def bin(self, path, letters):
        """Moves a file into the bin as desktop systems do: the content under $R, where it was under $I (version 2)."""
        extension = path.rsplit(".", 1)[-1]
        name = "E:\\" + path.replace("/", "\\") + "\0"
        when = 116444736000000000 + int(time.mktime(time.strptime(self.now, "%Y-%m-%d %H:%M:%S"))) * 10_000_000
        size = os.path.getsize(self.place(path))
        self.folder(SID)
        os.rename(self.place(path), self.place(f"{SID}/$R{letters}.{extension}"))
        self.write(f"{SID}/$I{letters}.{extension}", struct.pack("<QQQI", 2, size, when, len(name)) + name.encode("utf-16le"))
