#!/usr/bin/env bash
# screenshots.sh LATTICE FOLDER: photographs what the command prints in a terminal window, on a
# screen that nobody sees.
set -euo pipefail
lattice=$(realpath "$1")
folder=$(realpath "$2")
PATH="$(dirname "$lattice"):$(dirname "$lattice")/examples:$PATH"
export PATH

Xvfb :77 -screen 0 1280x800x24 >/dev/null 2>&1 &
server=$!
trap 'kill "$server"' EXIT
export DISPLAY=:77
for _ in $(seq 50); do
  [ -e /tmp/.X11-unix/X77 ] && break
  sleep 0.1
done

# shoot NAME ROWS FIRST COMMAND…: a window of so many rows with what the commands print, each after
# its prompt, from line FIRST on and as far as it fits.
shoot() {
  local name=$1 rows=$2 first=$3 command script
  shift 3
  script=$(mktemp)
  {
    echo "export TERM=xterm-256color"
    echo "tput civis"
    for command in "$@"; do
      printf "printf '\\\\e[1m\$ %%s\\\\e[0m\\\\n' %q\n" "$command"
      printf "script --quiet --return --command %q /dev/null </dev/null | sed 's/\\\\r\$//' |" \
        "stty cols 102 rows 400; $command"
      echo " tail -n +$first | head -n $((rows - 3)); echo"
    done
    echo "touch $script.done; sleep 20"
  } >"$script"
  xterm -geometry "102x$rows+0+0" -fa 'DejaVu Sans Mono' -fs 10.5 -bg '#fbfaf4' -fg '#2b2b33' \
    -b 12 +sb -e bash "$script" &
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

shoot work 44 1 'lattice work kiln --batch 4 --rate 0.02'
shoot work-reverse 44 51 'lattice work kiln --batch 4 --rate 0.02'
shoot work-update 28 91 'lattice work kiln --batch 4 --rate 0.02'
shoot why 23 1 "lattice why 'z[4,0]' shrinkage --scale standard" \
  "lattice why 'x[4,1]' shrinkage --scale standard" \
  "lattice why 'W[1,0]' shrinkage --scale standard --gradient" \
  "lattice why 'W[1,0]' shrinkage --scale standard --update"
shoot check 14 1 'lattice check shrinkage --scale standard'
shoot why-depth 35 1 "lattice why 'W[0,0]' kiln --gradient --depth 2 --batch 4"
shoot walk-back 44 58 02_a_walk_back
shoot careless 42 1 03_careless_and_careful
shoot train 38 1 'lattice train shrinkage --scale standard --rate 0.1 --epochs 20'
shoot demo 44 1 'lattice demo'
shoot about 10 1 'lattice about'
