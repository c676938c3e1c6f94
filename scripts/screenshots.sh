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

# photograph NAME ROWS SCRIPT: a window of so many rows in which a script runs, as it is when the
# script says that it is done, with a file beside it.
photograph() {
  local name=$1 rows=$2 script=$3
  xterm -geometry "102x$rows+0+0" -fa 'DejaVu Sans Mono' -fs 10.5 -bg '#fbfaf4' -fg '#2b2b33' \
    -b 12 +sb -e bash "$script" &
  local window=$!
  for _ in $(seq 150); do
    [ -e "$script.done" ] && break
    sleep 0.1
  done
  sleep 0.7
  import -window root -trim +repage -strip "$folder/$name.png"
  kill "$window"
  wait "$window" 2>/dev/null || true
  rm -f "$script" "$script.done"
}

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
  photograph "$name" "$rows" "$script"
}

# shoot_typed NAME ROWS COMMAND LINE…: the end of a window in which a command was typed, and then
# line after line at its prompt.
shoot_typed() {
  local name=$1 rows=$2 command=$3 script line
  shift 3
  script=$(mktemp)
  {
    echo "export TERM=xterm-256color"
    printf "printf '\\\\e[1m\$ %%s\\\\e[0m\\\\n' %q\n" "$command"
    echo "{ sleep 1"
    for line in "$@"; do
      printf "printf '%%s\\\\n' %q; sleep 0.4\n" "$line"
    done
    printf "sleep 0.5; touch %s.done; sleep 20; } | script --quiet --return --command %q /dev/null\n" \
      "$script" "stty cols 102; $command"
  } >"$script"
  photograph "$name" "$rows" "$script"
}

# browse NAME ADDRESS [HEIGHT]: a page in a browser's window.
browse() {
  local profile
  profile=$(mktemp --directory)
  timeout 60 chromium --headless --no-sandbox --disable-gpu "--user-data-dir=$profile" --hide-scrollbars \
    "--window-size=1280,${3:-800}" --timeout=4000 --screenshot="$folder/$1.png" "$2" >/dev/null 2>&1
  rm -rf "$profile"
}

# The pictures are taken where the lessons are, as a reader of the README has them.
place=$(mktemp --directory)
ln -s "$(realpath "$(dirname "$0")/../demo")" "$place/demo"
cd "$place"
kiln=demo/lessons/kiln.toml
shrinkage=demo/lessons/shrinkage.toml
glazes=demo/lessons/glazes.toml
stamps=demo/lessons/stamps.toml

shoot work 44 1 "lattice work $kiln"
shoot_typed walk 44 "lattice work $glazes --batch 4 --walk" hidden 'why hidden[0,2]' reverse '' \
  'why ∂output[0,3]'
shoot why 45 1 "lattice why 'output[3,0]' $shrinkage" "lattice why 'x[3,1]' $shrinkage" \
  "lattice why 'output.weight[1,0]' $shrinkage --gradient --batch 4" \
  "lattice why 'output.weight[1,0]' $shrinkage --update --step 3" \
  "lattice why 'conv[0,3,4,1]' $stamps"
shoot check 23 1 "lattice check $shrinkage" "lattice about"
shoot data 36 1 'lattice data stamps'
shoot plan 29 1 "lattice plan $glazes" "lattice plan $stamps"
shoot train 45 1 "lattice train $glazes --save glazes.lattice"
shoot assess 26 1 'lattice assess glazes.lattice'
shoot ask 8 1 'lattice ask glazes.lattice --record iron=3,lightness=56,thickness=0.5,gloss=60,peak=1250'
shoot compare 17 1 "lattice compare $glazes --epochs 20 --vary rate=0.1,0.01,0.001"

lattice work "$glazes" --batch 8 --steps 1,2,50 --curves --html page.html >/dev/null
lattice work "$glazes" --batch 4 --blanks 10 --html exercise.html >/dev/null
lattice work "$glazes" --batch 5 --xlsx sheet.xlsx >/dev/null
lattice draw graph demo/sheets/two_layers.sheet --gradients --out "$folder/graph.png" >/dev/null
browse page "file://$place/page.html#hidden%5B0,1%5D;1%3Ahidden.weight%5B0%2C1%5D%3D1.5"
browse slide "file://$place/page.html#∂tanh;slide" 640
mv "$folder/slide.png" .
convert "$folder/page.png" slide.png -append -strip "$folder/page.png"
lattice work "$stamps" --batch 4 --net 'conv 4 of 3x3, maximum 2, flatten, dense 8' \
  --html pictures.html >/dev/null
browse pictures "file://$place/pictures.html#conv%5B0,3,4,1%5D"
lattice work demo/lessons/studios.toml --html guilds.html >/dev/null
browse guilds "file://$place/guilds.html#neighbours2%5B7,0%5D"
mv "$folder/guilds.png" .
convert "$folder/pictures.png" guilds.png -append -strip "$folder/pictures.png"
browse exercise "file://$place/exercise.html#p"
shoot_typed prompt 26 "lattice work $glazes --batch 4 --blanks 10 --exercise" '0.5' 'hint' '(0.3 + 0.1)/2' ''
mv "$folder/prompt.png" .
convert "$folder/exercise.png" prompt.png -background '#fbfaf4' -append -strip "$folder/exercise.png"
lattice work glazes.lattice --wrong 1 --html wrong.html >/dev/null
browse answer "file://$place/wrong.html#∂raw"

soffice --headless "-env:UserInstallation=file://$place/office" --convert-to pdf sheet.xlsx >/dev/null
pdftoppm -r 110 -png -f 2 -l 2 -singlefile sheet.pdf forward
chosen=2
until pdftotext -f "$chosen" -l "$chosen" sheet.pdf - | head -n 1 | grep -q 'any row'; do
  chosen=$((chosen + 1))
done
pdftoppm -r 110 -png -f "$chosen" -l "$chosen" -singlefile sheet.pdf chosen
mogrify -trim +repage -bordercolor white -border 20 -strip forward.png chosen.png
convert forward.png chosen.png -append -strip "$folder/spreadsheet.png"

lattice draw curves glazes.lattice --out 1.png >/dev/null
lattice draw regions demo/lessons/cracks.toml --out 2.png >/dev/null
lattice draw descent kiln --batch 4 --rate 0.1 --epochs 6 --out 3.png >/dev/null
lattice draw confusion glazes.lattice --part test --out 4.png >/dev/null
lattice draw weights glazes.lattice --out 5.png >/dev/null
lattice draw function tanh relu sigmoid --out 6.png >/dev/null
lattice draw samples glazes.lattice --part test --samples 8 --out 7.png >/dev/null
lattice draw curves cracks --net 'dense 8, tanh, dense 2' --rule adam --rate 0.01 --epochs 5 \
  --judge-every '25 steps' --steps-every 5 --out 8.png >/dev/null
lattice draw line kiln --net 'dense 6, tanh, dense 1' --rule adam --rate 0.02 --epochs 60 \
  --out 9.png >/dev/null
lattice new glazes --title 'Groups and residual blocks' \
  --net 'dense 8, 3 times (residual(dense 8, tanh)), dense 4' \
  --out deeper.toml >/dev/null
lattice draw blocks "$glazes" deeper.toml --out 10.png >/dev/null
lattice ask glazes.lattice --record 3,56,0.5,60,1250 --record 1,80,1,30,1220 \
  --record 6,30,1,70,1280 --record 4,60,1,40,1240 --draw 11.png >/dev/null
lattice compare "$glazes" --epochs 20 --vary rate=0.02,0.002 --seeds 8 --draw 12.png >/dev/null
lattice draw weights stamps --epochs 30 --rule adam --rate 0.005 --out 13.png >/dev/null
lattice train "$stamps" --save stamps.lattice >/dev/null 2>&1
lattice draw channels stamps.lattice --out 14.png >/dev/null
lattice draw samples stamps.lattice --part test --wrong 12 --out 15.png >/dev/null
lattice draw flow demo/lessons/plain20.toml demo/lessons/residual20.toml --epochs 8 --out 16.png \
  >/dev/null
lattice draw nodes demo/lessons/studios.toml --out 17.png >/dev/null
lattice draw embedding demo/lessons/studios.toml --out 18.png >/dev/null
lattice data glazes --draw 19.png --axes iron,lightness >/dev/null
lattice data glazes --draw 20.png --as histograms >/dev/null
lattice draw network "$glazes" --batch 4 --out 21.png >/dev/null
lattice draw network "$stamps" --batch 4 --net 'conv 4 of 3x3, maximum 2, flatten, dense 8' \
  --out 22.png >/dev/null
montage {1..22}.png -tile 4x -geometry 540x+6+6 "$folder/charts.png"
mogrify +dither -colors 128 -strip "$folder/charts.png"

# watch NAME HEIGHT LESSON…: the page that watches a run.
watch() {
  lattice train "${@:3}" --serve --port 8077 --say nothing >/dev/null 2>&1 &
  local training=$!
  sleep 3
  # Nothing is drawn while nobody watches, so somebody does before the browser comes.
  exec 9<>/dev/tcp/127.0.0.1/8077
  printf 'GET /events HTTP/1.1\r\nHost: 127.0.0.1:8077\r\n\r\n' >&9
  sleep 3
  # A browser may take the picture before the first figures have come: a page without any is small.
  for _ in 1 2 3 4 5; do
    browse "$1" http://127.0.0.1:8077/ "$2"
    [ "$(stat --format %s "$folder/$1.png")" -gt 60000 ] && break
  done
  exec 9>&-
  kill "$training"
  wait "$training" || true
}
watch watch 800 demo/lessons/cracks.toml
watch wrong 1000 "$stamps" --epochs 4 --rows 800
convert "$folder/wrong.png" -crop 1280x545+0+455 +repage wrong.png
rm "$folder/wrong.png"
convert "$folder/watch.png" wrong.png -append -strip "$folder/watch.png"

lattice demo tour >/dev/null 2>&1
browse tour "file://$place/tour/index.html"
rm -rf "$place"
