#!/usr/bin/env bash
# Takes the terminal pictures in docs/screenshots, in a terminal window under Xvfb (Debian: xvfb xterm imagemagick).
set -euo pipefail
cd "$(dirname "$0")/.."
out=$PWD/docs/screenshots
work=$(mktemp -d)
bin=$PWD/script/dimestall
ln -s "$PWD/demo" "$work/demo"
Xvfb :97 -screen 0 1280x800x24 >/dev/null 2>&1 & screen=$!
trap 'kill $screen' EXIT
(cd "$work" && exec "$bin" demo --port 4797) >"$work/demo.log" 2>&1 & demo=$!
trap 'kill $demo $screen' EXIT
until grep -q token "$work/demo.log"; do sleep 0.2; done

shot() { # name, commands
  printf '%s\n' "cd $work" "PATH=$PWD/script:\$PATH" "PS1='$ '" 'say() { printf "\033[1;33m$ %s\033[0m\n" "$*"; "$@"; }' "$2" "touch $work/done" 'sleep 60' >"$work/run.sh"
  rm -f "$work/done"
  DISPLAY=:97 xterm -geometry 160x47+0+0 -fa 'DejaVu Sans Mono' -fs 10 -bg '#1b1713' -fg '#f3e8d3' -e bash "$work/run.sh" & term=$!
  until [ -e "$work/done" ]; do sleep 0.2; done
  sleep 0.5
  DISPLAY=:97 import -window root "$out/$1.png"
  kill $term
}

shot cli-simulate 'say dimestall simulate first_month 2>/dev/null | head -n 44'
shot cli-tune 'dimestall simulate racers_only >/dev/null; dimestall simulate racers_only --set /items/gull_frame/worth/shells=700 >/dev/null; say dimestall tune first_month --lever storm_frame | head -n 27; say dimestall compare 2 3 | head -n 14'
shot cli-audit "say dimestall odds tide_crate; say dimestall edit tiers storm_wax 3:5 5:12 --preview; say dimestall audit demo/faulty 2>/dev/null | head -n 22"
