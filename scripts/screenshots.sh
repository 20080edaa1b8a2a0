#!/usr/bin/env bash
# Takes the pictures in docs/screenshots from the demo: each command in a terminal window of 1280x800.
# Needs: xvfb, xterm, imagemagick, fonts-dejavu-core, fonts-ipafont-gothic, and a built program.
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

# midway NAME SECONDS COMMAND: the same, taken while the command is still at work.
midway() {
  local name=$1 seconds=$2
  shift 2
  before="$before; (sleep $seconds; touch $work/done) &" shot "$name" "$*"
}

wanted=("$@")
shot inspect-disk undershelf inspect theatre-disk.img
shot inspect-card undershelf inspect theatre-card.img
before='rm -f copy.img*' midway capture 4 'undershelf capture theatre-stick.img copy.img --limit 5M --simulate theatre-stick.drive.csv'
before='rm -f copy.*; undershelf capture theatre-stick.img copy.img --metadata-only --simulate theatre-stick.drive.csv >/dev/null' shot capture-end 'undershelf capture theatre-stick.img copy.img --from stick.shelf --under "Tour 2025/Tinnefeld" --simulate theatre-stick.drive.csv; undershelf capture theatre-stick.img copy.img --shelf stick.shelf --simulate theatre-stick.drive.csv; undershelf scan copy.img; undershelf list copy.shelf --unread'
shot sweep 'rm -f theatre-lost.shelf; undershelf inspect theatre-lost.img; undershelf scan theatre-lost.img --reach traces; undershelf tree theatre-lost.shelf --lost'
shot former 'undershelf summary theatre-photos.shelf; undershelf tree theatre-photos.shelf --volume 2 --under Costumes/Fox --under Stage'
shot summary undershelf summary theatre-card.shelf
shot tree undershelf tree theatre-card.shelf --lost
shot list undershelf list theatre-card.shelf --lost --sort=-size
shot show undershelf show theatre-card.shelf 34
shot peek undershelf peek theatre-card.shelf 38 --bytes 700
shot mark "undershelf mark theatre-card.shelf --under 'Scripts/Summer play'; undershelf list theatre-card.shelf --marked"
shot export 'undershelf export theatre-card.shelf --to rescued --lost --grade likely+; find rescued -type f | head -20'
shot verify 'undershelf verify rescued; printf x >> "rescued/data/deleted/Prop ledgers/2024 autumn.csv"; undershelf verify rescued'
shot tree-exfat undershelf tree stick.shelf --lost
shot list-ntfs 'undershelf list theatre-backup.shelf --lost --columns path,size,grade,deleted,place'
shot tree-hfsplus undershelf tree theatre-studio.shelf --lost
shot check 'undershelf check theatre-card.shelf --again; undershelf list theatre-card.shelf --grade verified --columns id,grade,chance,format,checked,size,path; undershelf list theatre-card.shelf --broken; undershelf show theatre-card.shelf 36'
