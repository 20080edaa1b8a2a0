#!/usr/bin/env bash
# Checking contents, held against each format's usual tester, run file by file on copies of the same files, in one run.
# usage: bench/check.sh [FOLDER]        needs a built program, mtools, mkfs.vfat, unzip, gzip, xz-utils, zstd; 2 GiB of room in FOLDER (else /tmp)
set -euo pipefail
cd "$(dirname "$0")/.."
program=$PWD/build/undershelf
work=$(mktemp -d -p "${1:-/tmp}")
trap 'rm -rf "$work"' EXIT
cd "$work"

mkdir files
python3 - <<'PY'
import bz2, gzip, lzma, os, random, zipfile
rng = random.Random(5)
words = ["marionette", "curtain", "bow", "lantern", "cue", "thunder", "prop", "ledger", "poster", "mill"]
def text(n):
    return " ".join(rng.choice(words) + str(rng.randrange(10000)) for _ in range(n)).encode()
for i in range(24):
    data = text(300_000)
    open(f"files/act {i:02}.gz", "wb").write(gzip.compress(data))
    open(f"files/act {i:02}.xz", "wb").write(lzma.compress(data[:1_000_000], preset=1))
    open(f"files/act {i:02}.bz2", "wb").write(bz2.compress(data[:1_500_000]))
    with zipfile.ZipFile(f"files/act {i:02}.zip", "w", zipfile.ZIP_DEFLATED) as z:
        for part in range(20):
            z.writestr(f"scene {part}.txt", data[part * 100_000:(part + 1) * 100_000])
PY
truncate -s 700M card.img
mkfs.vfat -F 32 -s 8 card.img >/dev/null
mcopy -s -Q -i card.img files ::
"$program" scan card.img >/dev/null 2>&1

python3 - "$program" <<'PY'
import glob, subprocess, sys, time
testers = {"gz": ["gzip", "-t"], "xz": ["xz", "-t"], "bz2": ["bzip2", "-t"], "zip": ["unzip", "-tqq"]}
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
    print(f"{ext:4} {len(files)} files: {' '.join(tester):12} {best[0]:6.2f} s   check {best[1]:6.2f} s   ratio {best[1] / best[0]:.2f}")
PY
