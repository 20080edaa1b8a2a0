#!/usr/bin/env bash
# Builds the fuzzers with clang and runs each for a time; what it finds is kept in fuzz/regressions, where the ordinary
# tests replay it.
# usage: scripts/fuzz.sh [SECONDS [TARGET...]]        needs clang and libclang-rt-14-dev
set -euo pipefail
cd "$(dirname "$0")/.."
seconds=${1:-600}
shift || true
targets=("$@")
[ ${#targets[@]} -gt 0 ] || targets=(fat exfat ntfs hfsplus disk sweep settle unpack coverage contents unnamed select bins bag shelf captured)
CC=clang CXX=clang++ cmake -S . -B build-fuzz -G Ninja -DUNDERSHELF_FUZZ=ON -DCMAKE_DISABLE_PRECOMPILE_HEADERS=ON >/dev/null
cmake --build build-fuzz --target "${targets[@]/#/fuzz_}" >build-fuzz/build.log || { tail -50 build-fuzz/build.log; exit 1; }
found=0
for target in "${targets[@]}"; do
  corpus=build-fuzz/corpus/$target
  kept=fuzz/regressions/$target
  log=build-fuzz/$target.log
  mkdir -p "$corpus" "$kept"
  build-fuzz/fuzz/fuzz_"$target" -max_total_time="$seconds" -max_len=400 -timeout=10 -rss_limit_mb=1024 -print_final_stats=1 \
    -artifact_prefix="$kept/" "$corpus" "$kept" >"$log" 2>&1 || found=1
  printf '%-8s %12s executions, %s inputs kept, %s findings\n' "$target" \
    "$(sed -n 's/^stat::number_of_executed_units: *//p' "$log")" "$(ls "$corpus" | wc -l)" \
    "$(grep -cE '^SUMMARY|broken promise' "$log" || true)"
  rmdir --ignore-fail-on-non-empty "$kept"
done
exit $found
