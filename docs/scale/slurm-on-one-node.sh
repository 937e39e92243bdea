#!/usr/bin/env bash
# Sets Slurm up on this machine alone (Debian: slurmctld, slurmd, munge; as root) and runs slurm.sh in it as an array,
# then compares the files with those of one run. For a trial: nothing of it is kept.
#
#     docs/scale/slurm-on-one-node.sh ORDER.json PICTURES OUT [SHARES]
set -euo pipefail
here=$(cd "$(dirname "$0")" && pwd)
order=$(realpath "$1") pictures=$(realpath "$2") out=$(realpath -m "$3") shares=${4:-2}
state=$(mktemp -d)
node=$(hostname -s)
cat > "$state/slurm.conf" <<CONF
ClusterName=trial
SlurmctldHost=$node(127.0.0.1)
SlurmUser=root
AuthType=auth/munge
StateSaveLocation=$state/state
SlurmdSpoolDir=$state/spool
SlurmctldPidFile=$state/ctld.pid
SlurmdPidFile=$state/d.pid
SlurmctldPort=16817
SlurmdPort=16818
ProctrackType=proctrack/linuxproc
TaskPlugin=task/none
SelectType=select/cons_tres
SelectTypeParameters=CR_Core
ReturnToService=2
NodeName=$node NodeAddr=127.0.0.1 CPUs=$(nproc) State=UNKNOWN
PartitionName=all Nodes=$node Default=YES MaxTime=INFINITE State=UP
CONF
mkdir -p "$state/state" "$state/spool"
export SLURM_CONF=$state/slurm.conf
[ -e /etc/munge/munge.key ] || mungekey --create
install -d -o munge -g munge /run/munge
# beside one that runs already
pgrep -x munged > /dev/null || runuser -u munge -- munged
slurmctld -D > "$state/ctld.log" 2>&1 &
ctld=$!
slurmd -D -N "$node" > "$state/d.log" 2>&1 &
d=$!
trap 'kill $d $ctld; wait; rm -rf "$state"' EXIT
for _ in $(seq 60); do
  sinfo -h -o %T 2> /dev/null | grep -q idle && break
  sleep 1
done
mkdir -p "$out"
sbatch --wait --array="1-$shares" --output="$state/task-%a.log" --export=ALL \
  "$here/slurm.sh" "$order" "$pictures" "$out" || { cat "$state"/*.log; exit 1; }
amber-grain order merge "$out" -o "$out/manifest.json"
whole=$(mktemp -d)
amber-grain order run "$order" "$pictures" --out "$whole" --quiet
diff -rq -x manifest.json -x .amber-grain "$whole" "$out" && echo "The array made the same files as one run."
rm -rf "$whole"
