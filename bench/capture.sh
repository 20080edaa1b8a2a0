#!/usr/bin/env bash
# Capturing a sound source, held against dd, in one run; and a failing one, by what each read brings.
# usage: bench/capture.sh [FOLDER]        needs a built program; 9 GiB of room in FOLDER (else /tmp)
set -euo pipefail
cd "$(dirname "$0")/.."
program=$PWD/build/undershelf
work=$(mktemp -d -p "${1:-/tmp}")
trap 'rm -rf "$work"' EXIT
cd "$work"

head -c 3G /dev/urandom >source.img

python3 - "$program" <<'PY'
import os, subprocess, sys, time
program = sys.argv[1]
ways = {"dd bs=4M conv=fsync": ["dd", "if=source.img", "of=out.img", "bs=4M", "conv=fsync"],
        "capture": [program, "capture", "source.img", "out.img"]}
best = {name: 1e9 for name in ways}
for i in range(5):
    for name, command in ways.items():
        for file in os.listdir("."):
            if file.startswith("out."):
                os.remove(file)
        os.sync()
        with open("source.img", "rb") as f:  # warm
            while f.read(1 << 24):
                pass
        began = time.time()
        subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=True)
        best[name] = min(best[name], time.time() - began)
dd, ours = best["dd bs=4M conv=fsync"], best["capture"]
print(f"3 GiB, best of 5: dd {dd:.2f} s ({3072 / dd:.0f} MiB/s), capture {ours:.2f} s ({3072 / ours:.0f} MiB/s), speed {dd / ours:.2f} of dd's")
PY

rm -f out.* && head -c 256M source.img >failing.img
python3 - "$program" <<'PY'
import random, subprocess, sys, os
size, sector = 256 << 20, 512
for share in (0.01, 0.05, 0.30):
    for clumps in (True, False):
        rng = random.Random(11)
        bad = bytearray(size // sector)
        with open("failing.csv", "w") as f:
            f.write("offset,length\n")
            while sum(bad) < share * len(bad):
                for _ in range(1 if clumps else 200):
                    n = rng.randint(20, 600) if clumps else 1
                    at = rng.randrange(len(bad) - n)
                    f.write(f"{at * sector},{n * sector}\n")
                    bad[at:at + n] = b"\1" * n
        for name in ("out.img", "out.img.coverage.csv", "out.img.blocks.csv", "reads.csv"):
            if os.path.exists(name):
                os.remove(name)
        subprocess.run([sys.argv[1], "capture", "failing.img", "out.img", "--simulate", "failing.csv", "--reads", "reads.csv"],
                       stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        asked, got = bytearray(len(bad)), []
        for line in open("reads.csv").readlines()[1:]:
            offset, length, read = map(int, line.split(","))
            got.append(read)
            if read < length:
                for s in range((offset + read) // sector, (offset + length) // sector):
                    asked[s] += bad[s]
        copied = sum(int(l.split(",")[1]) for l in open("out.img.coverage.csv") if ",copied" in l)
        readable = size - sum(bad) * sector
        print(f"{share:4.0%} unreadable {'in clumps' if clumps else 'scattered'}: {copied / readable:.2%} of the readable bytes copied, "
              f"{len(got)} reads, {sum(got[:len(got) // 2]) / sum(got):.1%} of them in the first half; "
              f"an unreadable sector was asked for at most {max(asked)} times")
PY
