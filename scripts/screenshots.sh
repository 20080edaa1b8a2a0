#!/usr/bin/env bash
# Takes the pictures in docs/screenshots from the demo: each command in a terminal window of 1280x800.
# Needs: xvfb, xterm, imagemagick, chromium, fonts-dejavu-core, fonts-ipafont-gothic, and a built program.
# usage: scripts/screenshots.sh [NAME...]
set -euo pipefail
cd "$(dirname "$0")/.."
program=$PWD/build/undershelf
pictures=$PWD/docs/screenshots
work=/tmp/candlewick-lane
rm -rf "$work"
mkdir -p "$work"
trap 'rm -rf "$work"; kill ${server:-} 2>/dev/null || true' EXIT
"$program" demo "$work/demo" >/dev/null 2>&1
rm -rf "$work/demo/rescued" "$work/demo/rescued-photos"
"$program" unmark "$work/demo/theatre-card.shelf" --all >/dev/null
Xvfb :97 -screen 0 1280x800x24 >/dev/null 2>&1 &
server=$!
export DISPLAY=:97
for _ in $(seq 50); do [ -e /tmp/.X11-unix/X97 ] && break; sleep 0.1; done
mkdir -p "$pictures" "$work/bin"
ln -s "$program" "$work/bin/undershelf"

# shot NAME COMMAND: the command typed at a prompt, and what it prints. What is in `before` is done unseen.
before=
shot() {
  local name=$1
  shift
  [ ${#wanted[@]} -eq 0 ] || [[ " ${wanted[*]} " == *" $name "* ]] || return 0
  echo "$*" >"$work/command"
  echo "${before:-}" >"$work/before"
  cat >"$work/run.sh" <<SH
cd "$work/demo"; export PATH="$work/bin:\$PATH"; clear
printf '\$ %s\n' "\$(cat "$work/command")"
source "$work/before"
source "$work/command"
printf '\$ '; touch "$work/done"; read -r _
SH
  rm -f "$work/done"
  xterm -fa 'DejaVu Sans Mono' -fs 11 -geometry 140x44+0+0 -bg '#fdfdfb' -fg '#202428' -xrm 'xterm*faceNameDoublesize: IPAGothic' +sb -e bash "$work/run.sh" &
  local window=$!
  while [ ! -e "$work/done" ]; do sleep 0.1; done
  sleep 0.6
  import -window root -depth 8 "$pictures/$name.png"
  kill $window 2>/dev/null || true
  wait $window 2>/dev/null || true
}

# page NAME COMMAND FILE: a page that a command makes, in a browser of that size.
page() {
  local name=$1 command=$2 file=$3
  [ ${#wanted[@]} -eq 0 ] || [[ " ${wanted[*]} " == *" $name "* ]] || return 0
  (cd "$work/demo" && PATH="$work/bin:$PATH" bash -c "$command" >/dev/null)
  chromium --headless=new --no-sandbox --disable-gpu --hide-scrollbars --window-size=1280,800 --screenshot="$pictures/$name.png" \
    "file://$work/demo/$file" >/dev/null 2>&1
}

wanted=("$@")
# A made-up system, so that the drives of this one are in no picture.
system=$work/system
mkdir -p "$system/sys/block" "$system/sys/dev/block" "$system/proc/self" "$system/run/udev/data" "$system/dev"
# drive NAME NUMBER FOLDER SECTORS ROTATING MODEL SERIAL, partition DRIVE-FOLDER NAME NUMBER SECTORS SYSTEM LABEL
drive() {
  local at=$system/sys/devices/$3/block/$1
  mkdir -p "$at/queue" "$at/device"
  echo "$2" >"$at/dev"; echo "$4" >"$at/size"; echo 0 >"$at/ro"; echo "$5" >"$at/queue/rotational"
  echo "$6" >"$at/device/model"; echo "$7" >"$at/device/serial"; echo 0 >"$at/queue/discard_max_bytes"
  ln -s "$at" "$system/sys/block/$1"; ln -s "$at" "$system/sys/dev/block/$2"
  touch "$system/dev/$1"
}
partition() {
  local at=$1/$2
  mkdir -p "$at"
  echo 1 >"$at/partition"; echo "$3" >"$at/dev"; echo 2048 >"$at/start"; echo "$4" >"$at/size"
  ln -s "$at" "$system/sys/dev/block/$3"
  printf 'E:ID_FS_TYPE=%s\nE:ID_FS_LABEL=%s\n' "$5" "$6" >"$system/run/udev/data/b$3"
}
drive sda 8:0 ata1/host0 1953525168 1 'Fly Loft 1000' FL-77
partition "$system/sys/devices/ata1/host0/block/sda" sda1 8:1 1953523120 ext4 workshop
drive sdb 8:16 usb1/host6 61440000 0 'Lantern 32' CL-0042
echo 1 >"$system/sys/devices/usb1/host6/block/sdb/removable"
partition "$system/sys/devices/usb1/host6/block/sdb" sdb1 8:17 61437952 vfat CANDLEWICK
drive sdc 8:32 usb2/host7 3907029168 1 'Trap Room 2000' TR-9
partition "$system/sys/devices/usb2/host7/block/sdc" sdc1 8:33 3907027120 ntfs BACKUP
cat >"$system/proc/self/mountinfo" <<'MOUNTS'
40 1 8:1 / / rw - ext4 /dev/sda1 rw
41 1 8:17 / /media/CANDLEWICK rw - vfat /dev/sdb1 rw
MOUNTS
echo 'Filename Type Size Used Priority' >"$system/proc/swaps"
cat >"$work/bin/smartctl" <<'SMART'
#!/bin/sh
case "$*" in
*sdc) echo '{"smart_status": {"passed": true}, "ata_smart_attributes": {"table": [{"id": 5, "raw": {"value": 812}}]}}' ;;
*) echo '{"smart_status": {"passed": true}, "power_on_time": {"hours": 1204}}' ;;
esac
SMART
chmod +x "$work/bin/smartctl"
shot sources undershelf sources --health --root ../system
shot inspect-card undershelf inspect theatre-card.img
before='rm -f copy.*; undershelf capture theatre-stick.img copy.img --metadata-only --simulate theatre-stick.drive.csv >/dev/null' shot capture-end 'undershelf capture theatre-stick.img copy.img --from stick.shelf --under "Tour 2025/Tinnefeld" --simulate theatre-stick.drive.csv; undershelf capture theatre-stick.img copy.img --shelf stick.shelf --simulate theatre-stick.drive.csv; undershelf scan copy.img; undershelf list copy.shelf --unread'
shot former 'undershelf summary theatre-photos.shelf; undershelf tree theatre-photos.shelf --volume 2 --under Costumes/Fox --under Stage'
shot summary undershelf summary theatre-card.shelf
shot tree undershelf tree theatre-card.shelf --lost
shot groups 'undershelf list theatre-card.shelf --lost --group kind; undershelf list theatre-backup.shelf --lost --group folder --depth 2; undershelf list theatre-card.shelf --group month --format csv'
shot folders 'undershelf tree theatre-card.shelf --folders; undershelf tree theatre-photos.shelf --folders --depth 2 --grade likely+'
shot list undershelf list theatre-card.shelf --lost --sort=-size
shot show undershelf show theatre-card.shelf 34
shot peek 'undershelf peek theatre-card.shelf 26; undershelf peek theatre-card.shelf 38 | head -20; undershelf peek theatre-card.shelf 36 --draw owl.png; undershelf peek theatre-card.shelf --kind picture --draw pictures'
shot export 'undershelf export theatre-card.shelf --to rescued --lost --grade likely+; undershelf export theatre-card.shelf --to rescued --lost --grade doubtful+; find rescued -type f | head -16'
shot verify 'undershelf verify rescued; printf x >> "rescued/data/deleted/Prop ledgers/2024 autumn.csv"; undershelf verify rescued'
shot list-ntfs 'undershelf list theatre-backup.shelf --lost --columns path,size,grade,deleted,place'
shot check 'undershelf check theatre-card.shelf --again; undershelf list theatre-card.shelf --grade verified --columns id,grade,chance,format,checked,size,path; undershelf list theatre-card.shelf --broken'
page sheet 'rm -f sheet.html; undershelf sheet theatre-card.shelf --lost --grade doubtful+ --group kind --to sheet.html' sheet.html
page report 'rm -rf report; undershelf export theatre-card.shelf --to rescued --lost >/dev/null || true; printf "owl\n*.pdf\nSummer lamps.csv\nThe lost violin\n" >wanted.txt; undershelf report theatre-card.shelf --to report --export rescued --wanted wanted.txt --case 2025-118 --by "Workshop Seven"' report/report.html
if [ ${#wanted[@]} -eq 0 ] || [[ " ${wanted[*]} " == *" figure "* ]]; then
  (cd "$work/demo" && "$program" report stick.shelf --to figures --figures-only >/dev/null)
  cp "$work/demo/figures/map.png" "$pictures/figure.png"
fi
