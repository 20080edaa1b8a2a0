#!/usr/bin/env bash
# Drawings a second, by format, held against what the libraries' own programs do with the same files: each decodes
# every file once and writes a picture of it, as many at a time as there are cores.
#
# usage: bench/previews.sh [UNDERSHELF]        Needs: ffmpeg, libjpeg-turbo-progs, webp, poppler-utils, librsvg2-bin, libheif-examples,
#                                              imagemagick, xxd, mtools, dosfstools
set -euo pipefail
program=$(realpath "${1:-build/undershelf}")
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cd "$work"
files=${FILES:-60}

# What each format's files are made from: one picture with detail, of the size that cameras give.
convert -size 3000x2000 plasma:fractal -seed 7 source.png
convert source.png -resize 1200x800 small.png
mkdir jpeg webp pdf svg heic mp4 png
convert source.png -quality 90 one.jpg
cwebp -quiet -q 80 source.png -o one.webp
{ echo '<svg xmlns="http://www.w3.org/2000/svg" width="900" height="600">'; for i in $(seq 400); do
  echo "<circle cx='$((i * 37 % 900))' cy='$((i * 53 % 600))' r='$((i % 60 + 5))' fill='#$((i % 9))$((i % 7))$((i % 5))' opacity='0.6'/>"; done; echo '</svg>'; } >one.svg
rsvg-convert -f pdf one.svg -o one.pdf
heif-enc -q 60 small.png -o one.heic >/dev/null 2>&1 || true
ffmpeg -loglevel error -f lavfi -i testsrc=size=1280x720:rate=25 -t 2 -pix_fmt yuv420p one.mp4
for format in jpeg:jpg webp:webp pdf:pdf svg:svg heic:heic mp4:mp4 png:png; do
  end=${format#*:}
  [ "$end" = png ] && cp source.png one.png
  [ -s "one.$end" ] || continue
  for i in $(seq "$files"); do cp "one.$end" "${format%:*}/$i.$end"; done
done

now() { date +%s.%N; }
# each FOLDER COMMAND: the command for each file of the folder, which is {} in it.
each() { find "$1" -type f | xargs -P "$(nproc)" -I{} sh -c "$2" >/dev/null 2>&1; }
echo "format,files,ours_per_second,theirs_per_second,ratio"
for format in jpeg webp png pdf svg heic mp4; do
  [ -n "$(ls -A $format)" ] || continue
  rm -f card.img card.shelf; rm -rf drawn
  truncate -s $(($(du -sm "$format" | cut -f1) * 2 + 64))M card.img
  mkfs.vfat -F 32 card.img >/dev/null; mcopy -i card.img "$format"/* ::/
  "$program" scan card.img >/dev/null 2>&1
  cat card.img >/dev/null; cat "$format"/* >/dev/null
  begun=$(now); "$program" peek card.shelf --origin live --draw drawn --pixels 400 >/dev/null 2>&1; ours=$(now)
  case $format in
    jpeg) each jpeg 'djpeg -scale 1/4 {} >{}.out' ;;
    webp) each webp 'dwebp -quiet -scale 400 267 {} -o {}.out' ;;
    png) each png 'convert {} -resize 400x {}.out.png' ;;
    pdf) each pdf 'pdftocairo -png -singlefile -scale-to 400 {} {}.out' ;;
    svg) each svg 'rsvg-convert -w 400 {} -o {}.out' ;;
    heic) each heic 'heif-convert {} {}.out.png' ;;
    mp4) each mp4 'ffmpeg -loglevel error -threads 1 -i {} -frames:v 1 -vf scale=400:-1 -y {}.out.png' ;;
  esac
  theirs=$(now)
  python3 - "$format" "$files" "$begun" "$ours" "$theirs" <<'PY'
import sys
name, n, a, b, c = sys.argv[1], *map(float, sys.argv[2:])
print(f"{name},{int(n)},{n / (b - a):.1f},{n / (c - b):.1f},{(c - b) / (b - a):.2f}")
PY
done
