#!/usr/bin/env python3
"""Makes theatre-backup.img.gz: the backup disk of the Candlewick Lane theatre's office, NTFS, written and deleted with ntfs-3g.

usage: make_backup.py [OUT]         needs ntfs-3g and its tools, faketime, attr, and /dev/fuse

Its story: the office kept ledgers, letters and costume photos on it. Somebody put last year's ledgers into the bin and emptied a part of
it, deleted the folder with the glove maker's letters, and later wrote new letters, some into records that were free by then.
"""
import os
import struct
import subprocess
import tempfile
import time

import packing
import theatre

SID = "$RECYCLE.BIN/S-1-5-21-1001-2002-3003-1000"


class NtfsVolume:
    """One mount after the other, each under its own made-up clock."""

    def __init__(self, path, size, label, now):
        with open(path, "wb") as f:
            f.truncate(size)
        self.path, self.now = path, now
        self.folder_on_host = tempfile.mkdtemp()
        subprocess.run(["faketime", "-f", now, "mkntfs", "-q", "-F", "-c", "4096", "-L", label, path], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
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


def build(path):
    os.environ["TZ"] = "UTC"
    time.tzset()
    disk = NtfsVolume(path, 40 << 20, "BACKUP", "2025-01-14 08:30:00")
    disk.folder("Prop ledgers", "Letters/The glove maker", "Costume photos", "Archive")
    disk.compress("Archive")
    for year in range(2019, 2026):
        disk.put(f"Prop ledgers/{year} all props.csv", 9000 + 1000 * (year % 4), "ledger")
    disk.put("Archive/The fox under the bridge, all acts.txt", 120000)
    disk.put("Archive/A winter on strings.txt", 90000)
    for n in range(1, 7):
        disk.put(f"Costume photos/coat of the miller {n}.png", 40000 + 7000 * n)
    disk.at("2025-03-02 10:00:00")
    for n, subject in enumerate(["order", "invoice", "colours", "measures, Ödön", "thanks"]):
        disk.put(f"Letters/The glove maker/{n + 1} {subject}.txt", 600 + 900 * n)
    disk.put("Letters/Einladung zur Premiere.txt", 2100)
    disk.write("Letters/Einladung zur Premiere.txt:list of guests", b"Odile; the miller's widow; row 3\n")
    os.link(disk.place("Prop ledgers/2025 all props.csv"), disk.place("Letters/ledger for the tax office.csv"))
    disk.at("2025-06-11 17:00:00")
    disk.bin("Prop ledgers/2019 all props.csv", "Q7ZL2M")
    disk.bin("Prop ledgers/2020 all props.csv", "A1B9XK")
    disk.at("2025-07-01 09:00:00")
    disk.delete(f"{SID}/$RA1B9XK.csv", f"{SID}/$IA1B9XK.csv")
    disk.delete_tree("Letters/The glove maker")
    disk.delete("Costume photos/coat of the miller 2.png", "Costume photos/coat of the miller 5.png", "Archive/A winter on strings.txt")
    disk.at("2025-08-20 12:00:00")
    disk.put("Letters/To the insurance.txt", 1800)
    disk.put("Letters/To the printers.txt", 5200)
    disk.close()


packing.make("theatre-backup", build)
