#!/usr/bin/env bash
# The search for contents without names: over random bytes against `cat`; the memory that 100,000 finds take; and over an
# image full of pictures and archives against `check` of the same files on a volume. Prints ratios.
# usage: bench/unnamed.sh [MIB]        needs build-bench/, python3, mkfs.fat and mtools; four times MIB (1024) of temporary space
set -euo pipefail
cd "$(dirname "$0")/.."
mib=${1:-1024}
program=$PWD/build-bench/undershelf
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
cat >timed.py <<'PY'
import os, resource, subprocess, sys, time
best, runs = 1e9, int(sys.argv[1])
for _ in range(runs):
    if os.path.exists("found.shelf"): os.remove("found.shelf")
    began = time.time()
    subprocess.run(sys.argv[2:], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    best = min(best, time.time() - began)
print(f"{best:.2f} {resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss // 1024}")
PY
cat >contents.py <<'PY'
"""contents.py many: 100,000 small pictures into many.img. contents.py mixed MIB: pictures and archives into files/ and mixed.img."""
import io, os, random, struct, sys, zipfile, zlib
def chunk(kind, data): return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
def picture(r, side, title):
    rows = b"".join(b"\0" + r.randbytes(side) + bytes(2 * side) for _ in range(side))
    return (b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", side, side, 8, 2, 0, 0, 0)) + chunk(b"tEXt", b"Title\0" + title.encode())
            + chunk(b"IDAT", zlib.compress(rows, 1)) + chunk(b"IEND", b""))
def archive(r, size):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as z:
        for i in range(4): z.writestr(f"act {i}.txt", " ".join(r.choice(["lantern", "fox", "rope", "mill", "owl"]) + str(r.randrange(99999)) for _ in range(size // 40)))
    return out.getvalue()
r = random.Random(1)
if sys.argv[1] == "many":
    with open("many.img", "wb") as f:
        for i in range(100000):
            b = picture(r, 8, f"Prop ledger {i}")
            f.write(b + bytes(-len(b) % 4096))
else:
    os.mkdir("files")
    pool = [picture(r, 40 + 9 * i, f"Poster {i}") for i in range(60)] + [archive(r, 20000 + 3000 * i) for i in range(60)]
    with open("mixed.img", "wb") as f:
        n = 0
        while f.tell() < int(sys.argv[2]) << 20:
            b = r.choice(pool)
            open(f"files/{n:05}.{'png' if b[0] == 0x89 else 'zip'}", "wb").write(b)
            f.write(b + bytes(-len(b) % 4096))
            n += 1
PY
row() { python3 -c 'import sys; a, b = float(sys.argv[2]), float(sys.argv[4]); print(f"{sys.argv[1]:44} {a:8.2f} s   {sys.argv[3]:28} {b:8.2f} s   ratio {a / b:5.2f}")' "$@"; }
dd if=/dev/urandom of=random.img bs=1M count="$mib" status=none
read -r seconds _ <<<"$(python3 timed.py 3 "$program" scan random.img --shelf found.shelf --reach content)"
read -r plain _ <<<"$(python3 timed.py 3 cat random.img)"
read -r traces _ <<<"$(python3 timed.py 3 "$program" scan random.img --shelf found.shelf --reach traces)"
row "contents in $mib MiB of random bytes" "$seconds" cat "$plain"
row "contents in $mib MiB of random bytes" "$seconds" "the sweep for traces alone" "$traces"
rm random.img
python3 contents.py many
read -r seconds memory <<<"$(python3 timed.py 1 "$program" scan many.img --shelf found.shelf --reach content)"
printf '100,000 finds                                %8s s   most memory %s MiB\n' "$seconds" "$memory"
rm many.img
python3 contents.py mixed "$mib"
read -r seconds _ <<<"$(python3 timed.py 1 "$program" scan mixed.img --shelf found.shelf --reach content)"
truncate -s $((mib * 5 / 4 + 300))M volume.img  # FAT32 takes 65,525 clusters at least
mkfs.fat -F 32 -s 8 volume.img >/dev/null
mmd -i volume.img ::/files
(cd files && ls | xargs -n 500 sh -c 'mcopy -i ../volume.img "$@" ::/files/' sh)
"$program" scan volume.img --shelf volume.shelf >/dev/null
read -r check _ <<<"$(python3 timed.py 1 "$program" check volume.shelf --origin live)"
row "contents in $mib MiB of pictures and archives" "$seconds" "check of the same files" "$check"
