#!/usr/bin/env python3
"""Holds our listing of live files against that of a driver: paths, sizes and contents of every exFAT and NTFS volume on an image.

usage: scripts/compare_listing.py PROGRAM IMAGE...        needs ntfs-3g, exfat-fuse, and the right to mount

Prints one line a volume, and every difference; ends with status 1 when there is one.
"""
import hashlib
import json
import os
import subprocess
import sys
import tempfile

DRIVERS = {"NTFS": ["ntfs-3g", "-o", "ro"], "exFAT": ["mount.exfat-fuse", "-o", "ro"]}


def digest(path):
    with open(path, "rb") as f:
        return hashlib.file_digest(f, "sha256").hexdigest()


def by_driver(part, family, mount):
    device = subprocess.run(["losetup", "-f", "-r", "--show", part], capture_output=True, text=True, check=True).stdout.strip()
    try:
        subprocess.run([*DRIVERS[family], device, mount], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        found = {}
        for folder, _, files in os.walk(mount):
            for name in files:
                path = os.path.join(folder, name)
                if os.path.isfile(path) and not os.path.islink(path):
                    found[os.path.relpath(path, mount)] = (os.path.getsize(path), digest(path))
        return found
    finally:
        subprocess.run(["umount", mount], check=False)
        subprocess.run(["losetup", "-d", device], check=True)


def by_us(program, shelf, number, work):
    out = os.path.join(work, f"out{number}")
    chosen = ["--volume", str(number), "--origin", "live"]
    listed = subprocess.run([program, "list", shelf, *chosen, "--format", "jsonl"], capture_output=True, text=True, check=True).stdout
    subprocess.run([program, "export", shelf, "--to", out, *chosen], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    exported = {}
    with open(os.path.join(out, "exported.jsonl")) as f:
        for entry in map(json.loads, f):
            exported[entry["id"]] = entry["path_in_bag"]
    found = {}
    for entry in map(json.loads, listed.splitlines()):
        if not entry["is_dir"] and not entry["system"] and not entry["stream"]:
            file = exported.get(entry["id"])
            found[entry["path"]] = (entry["size"], digest(os.path.join(out, file)) if file else "not exported")
    return found


def main():
    program, bad = os.path.abspath(sys.argv[1]), False
    for image in sys.argv[2:]:
        with tempfile.TemporaryDirectory() as work:
            shelf = os.path.join(work, "volume.shelf")
            subprocess.run([program, "scan", image, "--shelf", shelf], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
            layout = json.loads(subprocess.run([program, "inspect", image, "--format", "json"], capture_output=True, text=True, check=True).stdout)
            for volume in layout["volumes"]:
                family = {"NTFS": "NTFS", "exFAT": "exFAT"}.get(volume["file_system"])
                if not family:
                    continue
                part = os.path.join(work, "part.img")
                with open(image, "rb") as f, open(part, "wb") as p:
                    f.seek(volume["offset"])
                    p.write(f.read(volume["size"]))
                mount = os.path.join(work, "mount")
                os.makedirs(mount, exist_ok=True)
                theirs, ours = by_driver(part, family, mount), by_us(program, shelf, volume["number"], work)
                differences = [(path, theirs.get(path), ours.get(path)) for path in sorted({*theirs, *ours}) if theirs.get(path) != ours.get(path)]
                print(f"{os.path.basename(image)} volume {volume['number']} {family}: {len(theirs)} live files by its driver, {len(ours)} by us, "
                      f"{len(differences)} differences")
                for path, a, b in differences:
                    bad = True
                    print(f"  {path}: driver {a}, us {b}")
    sys.exit(bad)


main()
