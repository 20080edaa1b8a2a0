#!/usr/bin/env python3
"""Makes the volumes of this folder, NAME.img.gz: small, each with one trouble, written and deleted by real drivers.

usage: make.py [NAME...]         needs what demo/guest_volume.py and demo/ntfs_volume.py need, dosfstools and exfatprogs

What the program says of each is in NAME.said; expected_test.cpp holds it against that. A volume that is made again is
another one in its serial numbers and in places that drivers choose: what is said of it has to be read again as well.
"""
import os
import random
import subprocess
import sys
import tempfile
import time

HERE = os.path.dirname(os.path.abspath(__file__))
sys.path.insert(0, os.path.join(HERE, "../../demo"))

import hfsplus_format  # noqa: E402
import packing  # noqa: E402
import theatre  # noqa: E402
from guest_volume import GuestVolume  # noqa: E402
from ntfs_volume import NtfsVolume  # noqa: E402

MB = 1 << 20


def empty(path, size):
    with open(path, "wb") as f:
        f.truncate(size)


def format_fat(path, bits, sectors, label="SHELF", serial="51A60001"):
    subprocess.run(["mkfs.fat", "-F", str(bits), "-s", str(sectors), "-i", serial, "-n", label, path], check=True, stdout=subprocess.DEVNULL)


def format_exfat(path, cluster, label="SHELF"):
    subprocess.run(["mkfs.exfat", "-c", str(cluster), "-L", label, path], check=True, stdout=subprocess.DEVNULL)


def format_hfsplus(path, size, label="Shelf", when="2025-01-07 10:00:00", **how):
    hfsplus_format.format_volume(path, size, label, time.mktime(time.strptime(when, "%Y-%m-%d %H:%M:%S")), **how)


def scribble(path, *stretches):
    """Zeros over stretches of (from, to) bytes."""
    with open(path, "r+b") as f:
        for start, end in stretches:
            f.seek(start)
            f.write(bytes(end - start))


def fill(v, season):
    """A season's papers: folders in folders, long names, short ones, names in other scripts, files in pieces."""
    v.folder(f"Season {season}", f"Season {season}/Scripts", f"Season {season}/Prop ledgers", "POSTERS")
    v.put(f"Season {season}/Scripts/The fox under the bridge.txt", 7300, "txt")
    v.put(f"Season {season}/Scripts/Die Müllerin & der Mond.txt", 2600, "txt")
    v.put(f"Season {season}/Prop ledgers/all props {season}.csv", 5100, "ledger")
    v.put("POSTERS/HALL.PDF", 6200, "pdf")
    v.put(f"POSTERS/poster {season}.png", 9000, "png")
    v.put("CUES.CSV", 3000, "csv")
    v.put("empty page.txt", 1, "txt")
    v.weave(4096, **{f"Season {season}/rehearsal.wav": 30000, f"Season {season}/lamps.csv": 14000, f"Season {season}/costumes.zip": 20000})
    for n in range(1, 6):
        v.put(f"Season {season}/Scripts/act {n}.txt", 900 * n, "txt")


def lose(v, season):
    """Deletes a part of it, and writes something into what is free then."""
    v.remount()
    v.at("2025-06-04 18:00:00")
    v.delete(f"Season {season}/Scripts/act 2.txt", f"Season {season}/Scripts/act 4.txt", "CUES.CSV", f"POSTERS/poster {season}.png", f"Season {season}/lamps.csv")
    v.delete_tree(f"Season {season}/Prop ledgers")
    v.remount()
    v.at("2025-06-05 09:30:00")
    v.put(f"Season {season}/Scripts/act 6.txt", 1500, "txt")
    v.move(f"Season {season}/rehearsal.wav", "rehearsal, old.wav")
    v.delete("rehearsal, old.wav", "POSTERS/HALL.PDF")


def guest(path, driver):
    return GuestVolume(path, driver, "2025-03-03 10:00:00")


def written(path, driver, season, deleted=True):
    v = guest(path, driver)
    fill(v, season)
    if deleted:
        lose(v, season)
    v.run()


def fat12_deleted(path):
    empty(path, 2 * MB)
    format_fat(path, 12, 1)
    written(path, "vfat", 2023)


def fat16_deleted(path):
    empty(path, 9 * MB)
    format_fat(path, 16, 4)
    written(path, "vfat", 2024)


def fat32_deleted(path):
    empty(path, 34 * MB)
    format_fat(path, 32, 1)
    written(path, "vfat", 2025)


def fat16_headless(path):
    """The boot sector, one FAT and a part of the other are gone."""
    fat16_deleted(path)
    scribble(path, (0, 12000))


def fat32_formatted(path):
    """The next season's card has larger clusters; the old one's folders and a part of its FAT are left."""
    empty(path, 34 * MB)
    format_fat(path, 32, 1)
    written(path, "vfat", 2021)
    scribble(path, (0, 200 * 1024))
    format_fat(path, 16, 4, "NEXT", "51A60002")
    v = GuestVolume(path, "vfat", "2025-09-01 10:00:00")
    v.folder("Season 2026")
    v.put("Season 2026/plan.txt", 2000, "txt")
    v.put("Season 2026/stage.png", 12000, "png")
    v.run()


def fat16_formatted(path):
    """Formatted as it was: the same clusters under a new life."""
    empty(path, 9 * MB)
    format_fat(path, 16, 4)
    written(path, "vfat", 2022)
    format_fat(path, 16, 4, "AGAIN", "51A60003")
    v = GuestVolume(path, "vfat", "2025-09-01 10:00:00")
    v.folder("Tour")
    v.put("Tour/stops.csv", 3000, "ledger")
    v.run()


def exfat_deleted(path):
    empty(path, 12 * MB)
    format_exfat(path, 4096)
    written(path, "exfat", 2024)


def exfat_formatted(path):
    empty(path, 12 * MB)
    format_exfat(path, 2048)
    v = guest(path, "exfat")
    v.put("program book.txt", 60000)  # where the next format puts its structures
    fill(v, 2022)
    lose(v, 2022)
    v.run()
    format_exfat(path, 8192, "NEXT")
    v = GuestVolume(path, "exfat", "2025-09-01 10:00:00")
    v.folder("Season 2026")
    v.put("Season 2026/plan.txt", 2000, "txt")
    v.run()


def exfat_headless(path):
    """Both boot regions, the FAT and the root are gone."""
    exfat_deleted(path)
    with open(path, "rb") as f:
        head = f.read(512)
    heap = 512 * int.from_bytes(head[88:92], "little")
    root = heap + 4096 * (int.from_bytes(head[96:100], "little") - 2)
    scribble(path, (0, heap), (root, root + 4096))


def ntfs(path, season, cluster=4096, stamp="2025-03-03 10:00:00"):
    v = NtfsVolume(path, 12 * MB, "SHELF", stamp, cluster)
    v.weave = lambda chunk, **sizes: [v.put(p, s) for p, s in sizes.items()]
    v.remount = lambda: None
    v.move = lambda a, b: os.rename(v.place(a), v.place(b))
    fill(v, season)
    v.write(f"Season {season}/Scripts/act 1.txt:notes", b"slower after the moon\n" * 60)
    v.folder("Packed")
    v.compress("Packed")
    v.put("Packed/all acts.txt", 90000, "txt")
    v.put("Packed/the owl.txt", 70000, "txt")
    os.link(v.place(f"Season {season}/Scripts/act 3.txt"), v.place("POSTERS/act three.txt"))
    os.symlink("Season", v.place("a way in"))
    v.bin("CUES.CSV", "Q7ZL2M")
    v.put("CUES.CSV", 3100, "csv")
    lose(v, season)
    v.delete("Packed/the owl.txt", "POSTERS/act three.txt", f"Season {season}/Scripts/act 3.txt")
    return v


def ntfs_deleted(path):
    ntfs(path, 2024).close()


def ntfs_formatted(path):
    ntfs(path, 2022, 1024).close()
    v = NtfsVolume(path, 12 * MB, "NEXT", "2025-09-01 10:00:00", 4096, keep=True)
    v.folder("Season 2026")
    v.put("Season 2026/plan.txt", 2000, "txt")
    v.put("Season 2026/stage.png", 12000, "png")
    v.close()


def ntfs_headless(path):
    """The boot sector, its copy, and the first records of the MFT are gone."""
    ntfs_deleted(path)
    with open(path, "rb") as f:
        head = f.read(512)
    mft = 4096 * int.from_bytes(head[48:56], "little")
    scribble(path, (0, 8192), (12 * MB - 512, 12 * MB), (mft, mft + 4096))


def hfsplus_deleted(path):
    empty(path, 12 * MB)
    format_hfsplus(path, 12 * MB, journal=512 * 1024)
    written(path, "hfsplus", 2024)


def hfsplus_small_nodes(path):
    """Small nodes and blocks: the catalogue has several levels."""
    empty(path, 12 * MB)
    format_hfsplus(path, 12 * MB, block=1024, node=1024, catalog_nodes=600, case_sensitive=True)
    v = guest(path, "hfsplus")
    fill(v, 2023)
    v.folder("Letters")
    for n in range(40):
        v.put(f"Letters/letter {n:02} to the glove maker.txt", 300 + 40 * n, "txt")
    v.link("CUES.CSV", "Letters/cues again.csv")
    lose(v, 2023)
    v.delete(*(f"Letters/letter {n:02} to the glove maker.txt" for n in range(0, 40, 3)))
    v.run()


def hfsplus_formatted(path):
    empty(path, 12 * MB)
    format_hfsplus(path, 12 * MB, block=2048)
    v = guest(path, "hfsplus")
    v.folder("Letters")
    for n in range(60):  # so that the catalogue is more than the next one's first nodes
        v.put(f"Letters/letter {n:02} to the painter of skies.txt", 300 + 40 * n, "txt")
    fill(v, 2022)
    lose(v, 2022)
    v.run()
    format_hfsplus(path, 12 * MB, "Next", "2025-09-01 09:00:00", block=4096)
    v = GuestVolume(path, "hfsplus", "2025-09-01 10:00:00")
    v.folder("Season 2026")
    v.put("Season 2026/plan.txt", 2000, "txt")
    v.run()


def hfsplus_headless(path):
    hfsplus_deleted(path)
    scribble(path, (0, 4096), (12 * MB - 4096, 12 * MB))


def inside(path, build, at, size):
    """A volume that began further in, and whose head is left in the free space of the one that is there now."""
    with tempfile.TemporaryDirectory() as work:
        inner = os.path.join(work, "inner.img")
        build(inner)
        with open(inner, "rb") as f, open(path, "wb") as out:
            out.truncate(size)
            out.seek(at)
            out.write(f.read())


def fat16_inside(path):
    inside(path, fat16_deleted, 4 * MB, 16 * MB)
    format_exfat(path, 4096, "WHOLE")


def ntfs_inside(path):
    inside(path, ntfs_deleted, 4 * MB, 20 * MB)
    format_fat(path, 16, 4, "WHOLE", "51A60004")
    written(path, "vfat", 2026, deleted=False)


def exfat_inside(path):
    inside(path, exfat_deleted, 3 * MB, 18 * MB)
    format_fat(path, 16, 8, "WHOLE", "51A60005")


def hfsplus_inside(path):
    inside(path, hfsplus_deleted, 4 * MB, 20 * MB)
    format_exfat(path, 4096, "WHOLE")


def nameless(path):
    """No file system: contents one after the other at sectors, two of them in two pieces, one cut off by another."""
    r = random.Random("nameless")
    out = bytearray(r.randbytes(512) * 64)
    for n, kind in enumerate(["png", "pdf", "wav", "zip", "txt", "csv", "png", "pdf", "zip"]):
        data = theatre.make(f"nameless {n}.{kind}", 9000 + 3000 * n, kind)
        if n in (1, 6):
            out += data[:4096] + bytes(2048) + data[4096:]
        elif n == 4:
            out += data[:5120]
            out += theatre.make("upon it.png", 3000, "png")
        else:
            out += data
        out += bytes(-len(out) % 512) + bytes(512 * (n % 3))
    out += bytes(-len(out) % MB)
    with open(path, "wb") as f:
        f.write(out)


VOLUMES = [fat12_deleted, fat16_deleted, fat32_deleted, fat16_headless, fat32_formatted, fat16_formatted, exfat_deleted, exfat_formatted, exfat_headless,
           ntfs_deleted, ntfs_formatted, ntfs_headless, hfsplus_deleted, hfsplus_small_nodes, hfsplus_formatted, hfsplus_headless, fat16_inside, ntfs_inside, exfat_inside, hfsplus_inside, nameless]


def main():
    os.environ["TZ"] = "UTC"
    time.tzset()
    for build in VOLUMES:
        name = build.__name__.replace("_", "-")
        if len(sys.argv) > 1 and name not in sys.argv[1:]:
            continue
        with tempfile.TemporaryDirectory() as work:
            image = os.path.join(work, "volume.img")
            build(image)
            packing.pack(image, os.path.join(HERE, name + ".img.gz"))
        print(name, flush=True)


main()
