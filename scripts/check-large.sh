#!/usr/bin/env bash
# SPDX-License-Identifier: MIT
# check-large.sh: what docs/large.md shows, done for real. Recordings of many devices are played in shares by examples/fleet/task.sh: by
# GNU parallel, which is killed in the middle and goes on, and by a Slurm of two nodes on this machine, one of which is killed in the
# middle. The results put behind one another are those of a single call, and so is the coverage added up. Prints rows a second at 1, 2 and
# 4 tasks. DEVICES (24) and ROWS (50000 each) may be set.
set -euo pipefail
cd "$(dirname "$0")/.."
devices=${DEVICES:-24} rows=${ROWS:-50000} shares=12
cmake --preset release >/dev/null
cmake --build --preset release -- --quiet
root=$PWD out=$PWD/build/large
export FICKLE=$root/build/release/fickle GATE=$root/bench/replay/replay.gate
rm -rf "$out"
mkdir -p "$out/recordings" "$out/lists"
cc -O2 -std=c11 -o "$out/make_recording" bench/replay/make_recording.c
cd "$out"
seq -w "$devices" | xargs -P "$(nproc)" -I{} sh -c "./make_recording $rows {} >recordings/harbour-{}.csv"
ls recordings/*.csv | awk -v shares=$shares '{print >("lists/" (NR - 1) % shares)}'

# one call, with which all else is compared
"$FICKLE" replay "$GATE" recordings/*.csv --quiet --as jsonl --save-coverage whole.coverage.csv | sort >whole.jsonl

compare() { # who it was
    cat results/*.jsonl | sort | cmp - whole.jsonl
    cat results/*.coverage.csv >all.coverage.csv
    "$FICKLE" replay "$GATE" --add-coverage all.coverage.csv --save-coverage sum.coverage.csv --quiet >/dev/null
    cmp sum.coverage.csv whole.coverage.csv
    [ "$(ls results | wc -l)" -eq $((2 * shares)) ] || { echo "large: $1 left more than results behind" >&2; exit 1; }
}

milliseconds() { echo $(($(date +%s%N) / 1000000)); }

# until SECONDS COMMAND...: waits until the command succeeds
until_true() {
    local limit=$((SECONDS + $1))
    while ! "${@:2}"; do
        [ $SECONDS -lt $limit ] || { echo "large: waited too long for: ${*:2}" >&2; return 1; }
        sleep 0.1
    done
}

some_done() { [ "$(ls results | grep -c jsonl)" -ge 2 ]; }

# ---- GNU parallel ----

play() { parallel --will-cite --jobs "$1" "$root/examples/fleet/task.sh" ::: $(ls lists); }
speeds=""
for tasks in 1 2 4; do
    rm -rf results && mkdir results
    begin=$(milliseconds)
    play $tasks
    speeds+=" $tasks: $((devices * rows / ($(milliseconds) - begin)))"
    compare parallel
done
rm -rf results && mkdir results
setsid bash -c "parallel --will-cite --jobs 2 $root/examples/fleet/task.sh ::: $(ls lists | tr '\n' ' ')" &
group=$!
until_true 30 some_done
kill -9 -- -$group && wait $group 2>/dev/null || true
[ "$(ls results/*.jsonl | wc -l)" -lt $shares ] || { echo "large: parallel was done before it was killed" >&2; exit 1; }
rm -f results/.[0-9]* # what a killed task was writing
play 2
compare "parallel, killed and begun anew"

# ---- Slurm ----

node() { # NAME: begins a node
    slurmd -N "$1" -f "$SLURM_CONF"
}
end_slurm() {
    for name in slurmctld slurmd.n1 slurmd.n2 munged; do
        [ ! -s "$slurm/$name.pid" ] || kill "$(cat "$slurm/$name.pid")" 2>/dev/null || true
    done
    until_true 10 rm -rf "$slurm" 2>/dev/null || true
}
slurm=$(mktemp -d /tmp/fickle-slurm-XXXXXX) # its sockets have short names
trap end_slurm EXIT
chmod 755 "$slurm"
mkdir "$slurm/state" "$slurm/spool.n1" "$slurm/spool.n2"
export SLURM_CONF=$slurm/slurm.conf
sed -e "s|@HOST@|$(hostname -s)|; s|@USER@|$(id -un)|; s|@FOLDER@|$slurm|; s|@PORT@|$((1700 + $$ % 50))|; s|@CPUS@|2|" \
    "$root/examples/fleet/slurm.conf.in" >"$SLURM_CONF"
(umask 077 && head -c 1024 /dev/urandom >"$slurm/munge.key")
munged --force --key-file="$slurm/munge.key" --socket="$slurm/munge.socket" --pid-file="$slurm/munged.pid" --log-file="$slurm/munged.log" \
    --seed-file="$slurm/munge.seed"
slurmctld -f "$SLURM_CONF"
node n1
node n2
both_idle() { [ "$(sinfo -h -o %T | sort | uniq -c | tr -d ' ')" = 2idle ] || [ "$(sinfo -h -N -o %T | grep -c idle)" -eq 2 ]; }
nobody_queues() {
    # what a dead node leaves begins anew after two minutes, or when somebody says so
    squeue -h -t PENDING -o '%A %r' | awk '/BeginTime/ {print $1}' | xargs -r -I{} scontrol update JobId={} StartTime=now >/dev/null 2>&1
    [ -z "$(squeue -h)" ]
}
until_true 30 both_idle

array="--array=0-$((shares - 1)) --requeue --output=/dev/null --quiet"
rm -rf results && mkdir results
sbatch $array "$root/examples/fleet/task.sh"
until_true 60 nobody_queues
compare Slurm

rm -rf results && mkdir results
sbatch $array "$root/examples/fleet/task.sh"
until_true 30 some_done
# the node goes down with all that runs on it
runs_on_n2() { killed=$({ grep -l -z -s '^SLURMD_NODENAME=n2$' /proc/[0-9]*/environ || true; } | cut -d/ -f3) && [ -n "$killed" ]; }
until_true 30 runs_on_n2
# first what would tell the controller that a task failed, as nothing can from a machine without power
keepers=$(ps -o ppid= -p "$(echo $killed | tr ' ' ,)" | sort -u | xargs -r -I{} sh -c 'grep -q -s slurmstepd /proc/{}/comm && echo {}' || true)
kill -9 "$(cat "$slurm/slurmd.n2.pid")" $keepers $killed 2>/dev/null || true
scontrol update NodeName=n2 State=DOWN Reason=killed # Slurm sees it too, a minute later
left=$(ls results/*.jsonl | wc -l)
until_true 120 nobody_queues
missing=$(for task in $(ls lists); do [ -e "results/$task.jsonl" ] || echo "$task"; done | paste -sd,)
if [ -n "$missing" ]; then # as docs/large.md says
    sbatch "--array=$missing" --output=/dev/null --quiet "$root/examples/fleet/task.sh"
    until_true 60 nobody_queues
fi
rm -f results/.[0-9]*
compare "Slurm, with a node killed"
echo "large: $devices recordings of $rows rows in $shares tasks come out as in one call: by GNU parallel, also after it was killed, and by Slurm, whose second node was killed in the middle, after $left tasks"
echo "  thousand rows a second at so many tasks at once, coverage kept:$speeds (on $(nproc) processors)"
