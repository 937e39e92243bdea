#!/usr/bin/env bash
# An order on a folder, spread by GNU parallel (Debian: parallel) over the cores of this machine, or with
# `--sshlogin` over several that share a folder. A share that failed is tried once more: what is there is left alone.
#
#     docs/scale/parallel.sh ORDER.json PICTURES OUT [SHARES]
set -euo pipefail
order=$1 pictures=$2 out=$3 shares=${4:-$(nproc)}
seq "$shares" | parallel --will-cite --retries 2 --halt soon,fail=1 --joblog "$out.joblog" \
  amber-grain order run "$order" "$pictures" --out "$out" --shard "{}/$shares" --quiet
amber-grain order merge "$out" -o "$out/manifest.json"
