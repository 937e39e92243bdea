#!/usr/bin/env bash
# An order on a folder as a Slurm array, one share a task:
#
#     sbatch --array=1-8 docs/scale/slurm.sh ORDER.json PICTURES OUT
#
# When all tasks have ended: `amber-grain order merge OUT`. A task that was cut off is simply submitted again.
#SBATCH --job-name=amber-grain
#SBATCH --cpus-per-task=1
#SBATCH --time=01:00:00
set -euo pipefail
order=$1 pictures=$2 out=$3
amber-grain order run "$order" "$pictures" --out "$out" --quiet \
  --shard "$SLURM_ARRAY_TASK_ID/$SLURM_ARRAY_TASK_COUNT"
