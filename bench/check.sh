#!/usr/bin/env bash
# Checking contents, held against each format's usual tester, run file by file on copies of the same files, in one run.
# usage: bench/check.sh [FOLDER]        needs a built program, mtools, mkfs.vfat, unzip, gzip, xz-utils, libjpeg-turbo-progs, flac, libtiff-tools;
#                                       2 GiB of room in FOLDER (else /tmp)
set -euo pipefail
cd "$(dirname "$0")/.."
program=$PWD/build/undershelf
work=$(mktemp -d -p "${1:-/tmp}")
trap 'rm -rf "$work"' EXIT
cd "$work"

mkdir files
python3 - <<'PY'
import bz2, gzip, lzma, os, random, struct, subprocess, wave, zipfile, zlib
rng = random.Random(5)
words = ["marionette", "curtain", "bow", "lantern", "cue", "thunder", "prop", "ledger", "poster", "mill"]
def text(n):
    return " ".join(rng.choice(words) + str(rng.randrange(10000)) for _ in range(n)).encode()
def tiff(path, side, rows):
    strips = [zlib.compress(bytes(rows[y * side * 3:(y + 16) * side * 3]), 1) for y in range(0, side, 16)]
    offsets, at = [], 8
    for strip in strips:
        offsets.append(at)
        at += len(strip)
    tables = struct.pack(f"<{len(strips)}I", *offsets) + struct.pack(f"<{len(strips)}I", *map(len, strips))
    entries = [(256, 4, 1, side), (257, 4, 1, side), (258, 3, 1, 8), (259, 3, 1, 8), (262, 3, 1, 2), (273, 4, len(strips), at),
               (277, 3, 1, 3), (278, 4, 1, 16), (279, 4, len(strips), at + 4 * len(strips))]
    with open(path, "wb") as f:
        f.write(struct.pack("<2sHI", b"II", 42, at + len(tables)) + b"".join(strips) + tables + struct.pack("<H", len(entries)))
        f.write(b"".join(struct.pack("<HHII", *e) for e in entries) + bytes(4))
def wave_file(path, seconds):
    with wave.open(path, "wb") as w:
        w.setnchannels(2), w.setsampwidth(2), w.setframerate(44100)
        hum = [int(9000 * ((t % 441) / 441 - 0.5)) for t in range(441)]
        second = b"".join(struct.pack("<hh", h + rng.randrange(-900, 900), h) for h in hum * 100)
        w.writeframes(second * seconds)
for i in range(24):
    data = text(300_000)
    open(f"files/act {i:02}.gz", "wb").write(gzip.compress(data))
    open(f"files/act {i:02}.xz", "wb").write(lzma.compress(data[:1_000_000], preset=1))
    open(f"files/act {i:02}.bz2", "wb").write(bz2.compress(data[:1_500_000]))
    with zipfile.ZipFile(f"files/act {i:02}.zip", "w", zipfile.ZIP_DEFLATED) as z:
        for part in range(20):
            z.writestr(f"scene {part}.txt", data[part * 100_000:(part + 1) * 100_000])
    # A poster of soft shapes with grain.
    side = 1600
    soft = [bytes((x // 9 + shade) % 200 for x in range(side * 3)) for shade in range(200)]
    rows = bytearray()
    for y in range(side):
        row = bytearray(soft[y // 7 * (i + 1) % 200])
        row[::5] = rng.randbytes(len(row[::5]))
        rows += row
    ppm = b"P6 %d %d 255\n" % (side, side) + rows
    subprocess.run(["cjpeg", "-quality", "90", "-outfile", f"files/act {i:02}.jpg"], input=ppm, check=True)
    tiff(f"files/act {i:02}.tif", side, rows)
    wave_file(f"act {i:02}.wav", 90)
    subprocess.run(["flac", "-s", "-o", f"files/act {i:02}.flac", f"act {i:02}.wav"], check=True)
PY
rm -f ./*.wav
truncate -s 1500M card.img
mkfs.vfat -F 32 -s 8 card.img >/dev/null
mcopy -s -Q -i card.img files ::
"$program" scan card.img >/dev/null 2>&1

python3 - "$program" <<'PY'
import glob, subprocess, sys, time
testers = {"gz": ["gzip", "-t"], "xz": ["xz", "-t"], "bz2": ["bzip2", "-t"], "zip": ["unzip", "-tqq"],
           "jpg": ["djpeg", "-outfile", "/dev/null"], "flac": ["flac", "-ts"], "tif": ["sh", "-c", "tiffcp -c none \"$0\" copy.tif"]}
for ext, tester in testers.items():
    files, best = sorted(glob.glob(f"files/*.{ext}")), [1e9, 1e9]
    for _ in range(3):
        began = time.time()
        for f in files:
            subprocess.run(tester + [f], check=True, stdout=subprocess.DEVNULL)
        best[0] = min(best[0], time.time() - began)
        began = time.time()
        subprocess.run([sys.argv[1], "check", "card.shelf", "--origin", "live", "--ext", ext, "--again"], check=True, stdout=subprocess.DEVNULL)
        best[1] = min(best[1], time.time() - began)
    print(f"{ext:4} {len(files)} files: {'tiffcp' if tester[0] == 'sh' else tester[0]:8} {best[0]:6.2f} s   check {best[1]:6.2f} s   ratio {best[1] / best[0]:.2f}")
PY
