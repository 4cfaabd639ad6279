#!/bin/sh
# Makes docs/screenshots anew from the demo. Terminal views need Xvfb, xterm and ImageMagick.
set -eu
cd "$(dirname "$0")/.."
cargo build --release --quiet
program=$(pwd)/target/release/bathygram
shots=$(pwd)/docs/screenshots
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
mkdir -p "$shots"
(cd demo/tidewatch && "$program" render -q --all --format png --scale 1.25 --out "$work/png" >/dev/null)
for pair in tidewatch_core:architecture surge_warning:sequence domain:classes recalibrate:flow; do
  cp "$work/png/${pair%%:*}.png" "$shots/${pair##*:}.png"
done

if command -v chromium >/dev/null; then
  (cd demo/tidewatch && "$program" render -q architecture.bathy --only tidewatch --out "$work/map.html" >/dev/null)
  chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --window-size=1280,887 --virtual-time-budget=3000 \
    --screenshot="$shots/page.png" "file://$work/map.html#tidewatch/core" >/dev/null 2>&1
fi
(cd demo/tidewatch && "$program" import -q table harbour_cabling.csv --picture "$shots/imported.png" >/dev/null)
(cd demo/tidewatch && "$program" import -q outline silent_gauge.md --picture "$shots/drafted.png" >/dev/null)
# There are differences: the command says so by its status.
(cd demo/tidewatch && "$program" conform -q warning_design.bathy --code . --picture "$shots/conform.png" >/dev/null || true)
(cd demo/tidewatch && "$program" conform -q readings_schema.bathy --database harbour.sqlite --picture "$shots/tables.png" >/dev/null || true)
(cd demo/tidewatch && "$program" import -q modules . --picture "$shots/modules.png" >/dev/null)
# The preview is photographed by its tests.
SHOTS="$shots" cargo test --quiet -p bathygram-cli --test browser the_page_in >/dev/null
rm -f "$shots/preview_dark.png"
"$program" themes -q abyss --picture --out "$shots/themes.png" >/dev/null

terminal() { # NAME ROWS FOLDER COMMAND
  printf '#!/bin/sh\ncd %s\nexport PATH=%s:$PATH\nprintf "\\033[1;36m$\\033[0m %%s\\n" "%s"\n%s\nprintf "\\033[1;36m$\\033[0m "\nsleep 6\n' \
    "$3" "$(dirname "$program")" "$4" "$4" > "$work/run.sh"
  chmod +x "$work/run.sh"
  xvfb-run -a -s "-screen 0 1280x1000x24" sh -c "
    xterm -xrm 'XTerm*color3:#8a6100' -xrm 'XTerm*color11:#8a6100' -xrm 'XTerm*color2:#1d7a3c' -xrm 'XTerm*color10:#1d7a3c' -fa 'DejaVu Sans Mono' -fs 12 -geometry 112x$2+0+0 -bg '#fbfcfd' -fg '#14232f' -e $work/run.sh &
    sleep 3; import -window root $work/root.png; wait"
  convert "$work/root.png" -trim +repage -bordercolor '#fbfcfd' -border 12 "$shots/$1.png"
}

if command -v xvfb-run >/dev/null && command -v xterm >/dev/null && command -v import >/dev/null; then
  mkdir "$work/demo"
  terminal demo 41 "$work/demo" "bathygram demo"
  cd "$work/demo/tidewatch"
  git init -q . && git add -A && git -c user.name=Keeper -c user.email=keeper@tidewatch.invalid commit -qm "Demo"
  sed -i 's/"row 881"/"row 882"/; /does "check the frame"/d' surge_warning.bathy
  sed -i '/service gateway/,/built/s/built "Rust"/built "Go"/; s/^  keeper uses desk.*/&\n  keeper reads forecast "tomorrow"/' architecture.bathy
  terminal diff 14 "$work/demo/tidewatch" "bathygram diff"
  if command -v chromium >/dev/null; then
    "$program" diff -q --html "$work/changes.html" >/dev/null
    chromium --headless --no-sandbox --disable-gpu --hide-scrollbars --window-size=1280,1087 \
      --screenshot="$shots/changes.png" "file://$work/changes.html" >/dev/null 2>&1
  fi
  for step in 'add the radio watch:/service gateway/i\    service watch "Radio watch"' 'say who plans:s/"Mariner"/"Passage planner"/' \
    'one store less:/store tables/,+1d; /tables/d'; do
    sed -i "${step#*:}" architecture.bathy
    git -c user.name=Keeper -c user.email=keeper@tidewatch.invalid commit -qam "${step%%:*}"
  done
  "$program" history -q architecture.bathy --only tidewatch_core --picture "$shots/history.png" >/dev/null
  printf 'sequence storm "A storm"\n  service gateway "Ingest gateway"\n  gatway sends desk "level 4.2 m"\n  alt "level over 4 m"\n  gateway --> desk\n  gateway uses desk "warning\n' > storm.bathy
  terminal check 46 "$work/demo/tidewatch" "bathygram check storm.bathy"
  terminal icons 22 "$work/demo/tidewatch" "bathygram icons network"
  printf 'sequence storm "A storm"\n    service gateway   "Ingest gateway" //one of two\n\n\n    gateway sends desk"level 4.2 m"( line dashed )\n' > storm.bathy
  terminal format 18 "$work/demo/tidewatch" "bathygram format --check storm.bathy"
fi
