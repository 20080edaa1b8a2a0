#!/usr/bin/env bash
# Exporting and verifying, held against copying, syncing and hashing the same files, in one run.
# usage: bench/export.sh [FOLDER]        needs a built program, mtools and mkfs.vfat; 2 GiB of room in FOLDER (else /tmp)
set -euo pipefail
cd "$(dirname "$0")/.."
program=$PWD/build/undershelf
work=$(mktemp -d -p "${1:-/tmp}")
trap 'rm -rf "$work"' EXIT

python3 - "$work" <<'PY'
import os, random, sys
rng = random.Random(7)
for folder, files, size in (("large", 200, 2_000_000), ("small", 20_000, 3_000)):
    for i in range(files):
        path = f"{sys.argv[1]}/{folder}/season {i // 500:02}"
        os.makedirs(path, exist_ok=True)
        with open(f"{path}/cue sheet {i:05}.bin", "wb") as f:
            f.write(rng.randbytes(size))
PY
cd "$work"
for kind in large small; do
  truncate -s 700M "$kind.img"
  mkfs.vfat -F 32 -s 8 "$kind.img" >/dev/null
  mcopy -s -Q -i "$kind.img" $kind/* ::
  "$program" scan "$kind.img" >/dev/null 2>&1
done

seconds() { # seconds COMMAND: of the best of three runs, everything in the page cache, nothing waiting to be written. Each
            # run writes into folders of its own, $OUT and $COPY: names that were just removed slow the next ones down.
  python3 - "$1" <<'PY'
import os, subprocess, sys, time
best = 1e9
for i in range(3):
    os.sync()
    names = dict(os.environ, OUT=f"out-{os.getpid()}-{i}", COPY=f"copy-{os.getpid()}-{i}")
    began = time.time()
    subprocess.run(["bash", "-c", sys.argv[1]], env=names, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=True)
    best = min(best, time.time() - began)
print(f"{best:.3f}")
PY
}
row() {
  python3 -c 'import sys; a, b = float(sys.argv[2]), float(sys.argv[4]); print(f"{sys.argv[1]:28} {a:7.2f} s   {sys.argv[3]:38} {b:7.2f} s   ratio {a / b:5.2f}")' "$@"
}
hash='find $COPY -type f -print0 | xargs -0 sha256sum'
row "export, 200 files of 2 MB" "$(seconds "$program export large.shelf --to \$OUT --all")" "cp -r; sha256sum" "$(seconds "cp -r large \$COPY; $hash")"
row "export, 20,000 files of 3 KB" "$(seconds "$program export small.shelf --to \$OUT --all")" "cp -r; sync; sha256sum" "$(seconds "cp -r small \$COPY; sync; $hash")"
for kind in large small; do
  "$program" export "$kind.shelf" --to "bag-$kind" --all >/dev/null 2>&1
  row "verify, $kind" "$(seconds "$program verify bag-$kind")" "sha256sum -c" "$(seconds "cd bag-$kind && sha256sum -c manifest-sha256.txt")"
done
