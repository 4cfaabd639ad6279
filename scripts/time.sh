#!/bin/sh
# Times the whole program from outside: the median of 21 runs, in milliseconds.
set -eu
cd "$(dirname "$0")/.."
cargo build --release --quiet
root=$(pwd)
program=$root/target/release/bathygram
folder=$(mktemp -d)
trap 'rm -rf "$folder"' EXIT

median() { # NAME COMMAND...
  name=$1
  shift
  for _ in 1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 17 18 19 20 21; do
    from=$(date +%s%N)
    "$@" >/dev/null 2>&1
    to=$(date +%s%N)
    echo $(((to - from) / 10000))
  done | sort -n | awk -v name="$name" '{ v[NR] = $1 } END { printf "%-44s %7.2f ms\n", name, v[(NR + 1) / 2] / 100 }'
}

awk 'BEGIN { print "architecture map \"Map\""; for (i = 0; i < 30; i++) print "  service s" i " \"Service " i "\"";
  for (i = 1; i < 30; i++) { print "  s" int((i - 1) / 3) " uses s" i; if (i % 2 == 0) print "  s" i " reads s" (i * 7) % 30 " \"levels\"" } }' > "$folder/one.bathy"
awk 'BEGIN { print "sequence talk"; for (i = 0; i < 500; i++) print "  p" i % 8 " calls p" (i * 3 + 1) % 8 " \"message " i "\" returning \"answer\"" }' > "$folder/talk.bathy"
awk 'BEGIN { print "sequence long"; for (i = 0; i < 5000; i++) print "  p" i % 40 " calls p" (i * 3 + 1) % 40 " \"message " i "\" returning \"answer\"" }' > "$folder/long.bathy"
awk 'BEGIN { print "classes plan"; for (i = 0; i < 300; i++) { c = i - i % 12; print "  class C" i (i % 12 > 1 && i % 12 < 6 ? " extends C" c + 1 : "");
  for (m = 0; m < 12; m++) print "    - level" m "Of" (i * 5 + m) % 97 ": Metres"; for (m = 0; m < 8; m++) print "    + read" m "(gauge" (i + m) % 89 ": Gauge, at: Time): Metres" }
  for (i = 1; i < 300; i++) print "  C" i " " (i % 2 ? "knows" : "owns") " 0..* C" (i % 12 ? i - i % 12 : i - 12) }' > "$folder/plan.bathy"
awk 'BEGIN { print "flow steps"; for (i = 0; i < 200; i++) print "  step a" i " \"Read " i "\"\n  \"Compare " i "\"\n  decide \"Within " i "?\"\n    when \"yes\"\n      \"Store " i "\"\n    or \"no\"\n      \"Ask " i "\"" }' > "$folder/steps.bathy"

cd demo/tidewatch
median "the demo, all its pictures" "$program" render --all --out "$folder/demo"
cd "$folder"
median "one architecture of 30 elements" "$program" render one.bathy --out one.svg
median "a sequence of 1,000 messages" "$program" render talk.bathy --out talk.svg
median "a flow of 1,000 steps" "$program" render steps.bathy --out steps.svg
median "10,000 messages between 40 parties" "$program" render long.bathy --out long.svg
median "300 classes of 20 members" "$program" render plan.bathy --out plan.svg
# A model of 5,000 elements in six levels and 20,900 relations.
(cd "$root" && cargo run --release --quiet -p bathygram-quality -- --model) > model.bathy
for sheet in "--depth 1" "--depth 2" "--depth 3" "--focus e5" "--focus e400"; do
  # shellcheck disable=SC2086
  median "a model of 5,000: $sheet" "$program" render model.bathy $sheet --out sheet.svg
done
from=$(date +%s%N)
"$program" render model.bathy --all-depths --out stack >/dev/null 2>&1
to=$(date +%s%N)
echo "the same, all depths: $(ls stack | wc -l) pictures in $(((to - from) / 1000000)) ms"
