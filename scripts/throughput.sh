#!/usr/bin/env bash
# An order on 200 files of 2 megapixels by two jobs, against two bare loops of `develop` over the same files, in turn.
#
#     scripts/throughput.sh target/release/amber-grain PICTURE.jpg [FILES]
set -euo pipefail
program=$(realpath "$1") picture=$2 count=${3:-200}
place=$(mktemp -d)
trap 'rm -rf "$place"' EXIT
mkdir "$place/in" "$place/loops"
for i in $(seq -w "$count"); do
  # what follows the end of a JPEG makes each a file of its own
  { cat "$picture"; echo "$i"; } > "$place/in/$i.jpg"
done
"$program" order new --stock plover --name '{name}' -o "$place/order.json"
seconds() {
  local from=$(date +%s.%N)
  "$@"
  echo "$(date +%s.%N) - $from" | bc
}
loop() {
  for file in "$place"/in/*["$1"].jpg; do
    "$program" develop "$file" -o "$place/loops/$(basename "$file")" --stock plover --threads 1
  done
}
loops() {
  loop 13579 & loop 02468 &
  wait
}
order() {
  rm -rf "$place/out"
  "$program" order run "$place/order.json" "$place/in" --out "$place/out" --jobs 2 --quiet
}
for round in 1 2; do
  echo "round $round: two loops $(seconds loops) s, order --jobs 2 $(seconds order) s"
done
