#!/usr/bin/env bash
# An order on a folder, by two workers on this machine; then what both wrote down as one manifest.
#
#     docs/scale/two-workers.sh ORDER.json PICTURES OUT
set -euo pipefail
order=$1 pictures=$2 out=$3
for share in 1/2 2/2; do
  amber-grain order run "$order" "$pictures" --out "$out" --shard "$share" --quiet &
done
wait
amber-grain order merge "$out" -o "$out/manifest.json"
