#!/bin/sh
# Renders the pictures of "First picture in five minutes" from the demo, by the application itself.
set -eu
cd "$(dirname "$0")/.."
out=crates/web/assets/guide
mkdir -p "$out"
develop() {
  name=$1
  shift
  target/release/amber-grain develop demo/photographs/hill-road.jpg -o "$out/$name.jpg" \
    --long-edge 720 --quality 84 "$@"
}
develop 1-original --set print.strength=0
develop 2-stock --stock plover
develop 3-light --stock plover --set scene.exposure=0.5 --set scene.zone.7=-0.5
develop 5-print --stock plover --set scene.exposure=0.5 --set scene.zone.7=-0.5 --set print.contrast=1.15 \
  --set print.filter.yellow=6
develop 6-years --stock plover --set scene.exposure=0.5 --set scene.zone.7=-0.5 --set print.contrast=1.15 \
  --set print.filter.yellow=6 --set years.age=35 --set years.storage=wall --set years.sun.strength=0.4
target/release/amber-grain develop demo/photographs/hill-road.jpg -o "$out/4-grain.jpg" --quality 84 --stock plover \
  --set scene.exposure=0.5 --set scene.zone.7=-0.5 --region 900,500,480,320
