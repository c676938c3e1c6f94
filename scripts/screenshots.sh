#!/usr/bin/env bash
# screenshots.sh LATTICE FOLDER: photographs what the command prints in a terminal window, on a
# screen that nobody sees.
set -euo pipefail
lattice=$(realpath "$1")
folder=$(realpath "$2")
PATH="$(dirname "$lattice"):$PATH"
export PATH

Xvfb :77 -screen 0 1280x800x24 >/dev/null 2>&1 &
server=$!
trap 'kill "$server"' EXIT
export DISPLAY=:77
for _ in $(seq 50); do
  [ -e /tmp/.X11-unix/X77 ] && break
  sleep 0.1
done

# shoot NAME FIRST COMMAND: the lines from FIRST on, as many as fit the window.
shoot() {
  local name=$1 first=$2 command=$3
  local script
  script=$(mktemp)
  cat >"$script" <<TEXT
export TERM=xterm-256color
printf '\e[?25l\e[1m\$ %s\e[0m\n' '${command//\'/\'\\\'\'}'
script --quiet --return --command "stty cols 102 rows 400; $command 2>&1" /dev/null |
  tr -d '\r' | tail -n +$first | head -n 43
touch $script.done
sleep 20
TEXT
  xterm -geometry 102x45+0+0 -fa 'DejaVu Sans Mono' -fs 10.5 -bg '#fbfaf4' -fg '#2b2b33' -b 12 \
    +sb -e bash "$script" &
  local window=$!
  for _ in $(seq 100); do
    [ -e "$script.done" ] && break
    sleep 0.1
  done
  sleep 0.7
  import -window root -trim +repage -strip "$folder/$name.png"
  kill "$window"
  wait "$window" 2>/dev/null || true
  rm -f "$script" "$script.done"
}

shoot work 1 'lattice work kiln --batch 4 --rate 0.02'
shoot work-reverse 44 'lattice work kiln --batch 4 --rate 0.02'
shoot why 1 "lattice why 'W[0,0]' kiln --gradient"
shoot train 1 'lattice train shrinkage --scale standard --rate 0.1 --epochs 20'
shoot demo 1 'lattice demo'
shoot about 1 'lattice about'
