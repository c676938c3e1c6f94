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

# The pictures are taken where the lessons are, as a reader of the README has them.
place=$(mktemp --directory)
ln -s "$(realpath "$(dirname "$0")/../demo")" "$place/demo"
cd "$place"
kiln=demo/lessons/kiln.toml
shrinkage=demo/lessons/shrinkage.toml
glazes=demo/lessons/glazes.toml

shoot work 44 1 "lattice work $kiln"
shoot work-reverse 44 51 "lattice work $kiln"
shoot work-update 22 96 "lattice work $kiln"
shoot why 27 1 "lattice why 'output[3,0]' $shrinkage" "lattice why 'x[3,1]' $shrinkage" \
  "lattice why 'output.weight[1,0]' $shrinkage --gradient --batch 4" \
  "lattice why 'output.weight[1,0]' $shrinkage --update --step 3"
shoot why-update 13 1 "lattice why 'hidden.weight[2,1]' $glazes --update --step 100"
shoot why-depth 35 1 "lattice why 'output.weight[0,0]' $kiln --gradient --depth 2"
shoot check 13 1 "lattice check $shrinkage"
shoot walk-back 44 58 02_a_walk_back
shoot careless 42 1 03_careless_and_careful
shoot data 31 1 'lattice data glazes'
shoot plan 12 1 "lattice plan $glazes"
shoot train 38 1 "lattice train $glazes --save glazes.lattice"
shoot assess 31 1 'lattice assess glazes.lattice'
shoot ask 8 1 'lattice ask glazes.lattice --record iron=3,lightness=56,thickness=0.5,gloss=60,peak=1250'
shoot compare 15 1 "lattice compare $glazes --epochs 20 --vary rate=0.1,0.01,0.001"
shoot demo 44 1 'lattice demo'
shoot about 10 1 'lattice about'
rm -rf "$place"
