#!/usr/bin/env bash
# Measures, and writes docs/performance.md. Needs Python 3; numpy is put into a folder of its own. BENCH holds the generator and
# the peers of the neutral benchmark, SCHEDULE that of scheduling (sibling folders of the checkout).
set -euo pipefail
cd "$(dirname "$0")/.."
bench=${BENCH:-../shared/bench/load}
schedule=${SCHEDULE:-../shared/bench/schedule}
cache=$(dirname "$CARGO_TARGET_DIR")
python=$cache/venv/bin/python
[ -x "$python" ] || python3 -m venv "$cache/venv"
"$python" -c 'import numpy' 2>/dev/null || "$cache/venv/bin/pip" install -q numpy==2.4.6
cargo build --release --quiet --locked -p snug-bench -p snug-roster
program=$CARGO_TARGET_DIR/release/snug-roster
sizes=("S 1 200 182 3000" "M 1 2000 364 60000" "L 1 10000 728 1000000")
rows=""
for size in "${sizes[@]}"; do
  read -r name seed people days bookings <<<"$size"
  folder=$cache/bench/$name
  [ -f "$folder/bookings.csv" ] || "$python" "$bench/gen.py" "$seed" "$people" "$days" "$bookings" "$folder"
  one="" all="" reading="" sum="" peer="" peer_sum="" peer_read=""
  found() { sed -n "s/^$1 \([0-9.]*\) ($2.*/\1/p" <<<"$ours"; }
  # In turn, so that both meet the host as it is.
  for _ in 1 2 3 4 5; do
    ours=$("$CARGO_TARGET_DIR/release/snug-bench" load "$folder" --runs 5)
    one+=$(found 'compute seconds' 'one thread')$'\n'
    all+=$(found 'compute seconds' 'all threads')$'\n'
    reading+=$(found 'read seconds' median)$'\n'
    sum=$(grep ^CHECKSUM <<<"$ours" | sort -u)
    # The peer runs with its own library's default kernels.
    out=$(env -u OPENBLAS_CORETYPE -u OPENBLAS_L2_SIZE "$python" "$bench/peer_numpy.py" "$folder")
    peer+=$(sed -n 's/.*compute_s=\([0-9.]*\).*/\1/p' <<<"$out")$'\n'
    peer_read+=$(sed -n 's/.*read_s=\([0-9.]*\).*/\1/p' <<<"$out")$'\n'
    peer_sum=$(grep ^CHECKSUM <<<"$out")
    [ "$sum" = "$peer_sum" ] || { echo "$name: the checksums differ: $sum / $peer_sum" >&2; exit 1; }
  done
  median() { sort -n <<<"$1" | sed '/^$/d' | sed -n 3p; }
  rows+="| $name | $people | $days | $bookings | $(median "$one") | $(median "$all") | $(median "$peer") | $(median "$reading") | $(median "$peer_read") | \`${sum#CHECKSUM }\` |"$'\n'
done
# The scheduler; every schedule goes through the benchmark's own checker.
best="$schedule/best.csv"
above() { # threads: how far the last finish lies above the best known one, in the mean of all and of those that are not proven
  local found; found=$("$CARGO_TARGET_DIR/release/snug-bench" schedule "$schedule/j$size" --seconds 5 --threads "$1" --out "$cache/bench/schedules")
  while read -r name _; do
    python3 "$schedule/check.py" "$schedule/j$size/$name.sm" "$cache/bench/schedules/$name.csv" >/dev/null || { echo "$name is not feasible" >&2; exit 1; }
  done <<<"$found"
  awk -F'[, ]' 'NR == FNR { lower[$1] = $2; best[$1] = $3; next }
    { gap = ($2 - best[$1]) / best[$1]; sum += gap; n++; if (lower[$1] < best[$1]) { hard += gap; open++ } }
    END { printf "%.2f %% | %.2f %%", 100 * sum / n, open ? 100 * hard / open : 0 }' "$best" <(echo "$found")
}
peer() {
  awk -F, 'FNR == NR { here[$1]; next } $1 in here { gap = ($4 - $3) / $3; sum += gap; n++; if ($2 < $3) { hard += gap; open++ } }
    END { printf "%d | %d | %.2f %% | %.2f %%", n, open, 100 * sum / n, open ? 100 * hard / open : 0 }' <(basename -s .sm -a "$schedule/j$size"/*.sm) "$best"
}
scheduled=""
for size in 30 60 120; do
  for one in "$schedule/j$size"/*.sm; do [ -f "$one" ] || { echo "no instances in $schedule/j$size" >&2; exit 1; }; done
  theirs=$(peer)
  one=$(above 1)
  all=$(above "$(nproc)")
  scheduled+="| $size | $theirs | $one | $all |"$'\n'
done
# Undated work of 500 people placed, and what a draft of a workspace of 10,000 costs.
tucked=$("$CARGO_TARGET_DIR/release/snug-bench" tuck-in --tasks 10000 --people 500 --seconds 5)
tucked_few=$("$CARGO_TARGET_DIR/release/snug-bench" tuck-in --tasks 200 --people 26 --seconds 1)
of_draft=$cache/bench/workspace-drafts
[ -f "$of_draft/bookings.csv" ] || "$CARGO_TARGET_DIR/release/snug-bench" workspace "$of_draft" --people 10000 >&2
drafted=$("$CARGO_TARGET_DIR/release/snug-bench" drafts "$of_draft")
# What one person costs, counted in instructions, which no other load on the machine moves.
counted="not counted: valgrind is not installed"
if command -v valgrind >/dev/null; then
  folder=$cache/bench/one
  [ -f "$folder/bookings.csv" ] || "$python" "$bench/gen.py" 1 1000 728 100000 "$folder"
  refs=$(valgrind --tool=callgrind --callgrind-out-file=/dev/null --toggle-collect='*append_person_row*' \
    "$CARGO_TARGET_DIR/release/snug-bench" load "$folder" --runs 1 2>&1 | sed -n 's/.*refs: *//p' | tr -d ,)
  counted="$((refs / 2000)) instructions a person (of L's shape: 728 days, 100 bookings), by \`valgrind --tool=callgrind\`"
fi
# The pages of a workspace of 10,000 people, at a server of its own, and the same at a tenth of its size.
scripts/install.sh --tests
folder=/var/tmp/snug-bench-$$
server_pid=""
trap '[ -z "$server_pid" ] || kill $server_pid 2>/dev/null; scripts/postgres.sh stop "$folder" >/dev/null 2>&1 || true; rm -rf "$folder"' EXIT
export DATABASE_URL
base=$(scripts/postgres.sh start "$folder")
password=bench-not-secret-2026
resident_kb() { sed -n 's/^VmRSS:[^0-9]*\([0-9]*\).*/\1/p' /proc/$server_pid/status; }
serve() { # people port [entries]: a database and a server that holds a made-up workspace
  local name=$1_${3:-0}
  DATABASE_URL=${base%/*}/bench_$name
  psql "$base" -qtAXc "CREATE DATABASE bench_$name"
  "$CARGO_TARGET_DIR/release/snug-bench" workspace "$cache/bench/workspace-$name" --people "$1" --entries "${3:-0}" >&2
  "$program" migrate >&2
  import_seconds=$( { TIMEFORMAT=%R; time "$program" import "$cache/bench/workspace-$name" >&2; } 2>&1 | tail -n 1)
  "$program" user bench@example.test --name Bench --role manager <<<"$password" >/dev/null 2>&1
  local begun; begun=$(date +%s%N)
  RUST_LOG=error "$program" serve --port "$2" --today 2026-03-11 >/dev/null &
  server_pid=$!
  until curl -fsS "http://127.0.0.1:$2/health/ready" >/dev/null 2>&1; do sleep 0.05; done
  ready_ms=$(( ($(date +%s%N) - begun) / 1000000 ))
  resident_mb=$(( $(resident_kb) / 1024 ))
}
stop() { kill "$server_pid"; wait "$server_pid" 2>/dev/null || true; server_pid=""; }
serve 1000 8095
small="$import_seconds s | $ready_ms ms | $resident_mb MB"
small_mb=$resident_mb
stop
serve 10000 8095
large="$import_seconds s | $ready_ms ms | $resident_mb MB"
person_kb=$(( (resident_mb - small_mb) * 1024 / 9000 ))
pages=$("$CARGO_TARGET_DIR/release/snug-bench" pages http://127.0.0.1:8095 --password "$password" --times "${TIMES:-200}")
frames=$(node scripts/frames.mjs http://127.0.0.1:8095 bench@example.test "$password")
cookie=$(curl -s -o /dev/null -c - -d "email=bench@example.test&password=$password" http://127.0.0.1:8095/sign-in | awk '/snug_session/ {print "snug_session=" $7}')
before=$(resident_kb)
viewers=()
for _ in $(seq 400); do
  curl -sN -b "$cookie" http://127.0.0.1:8095/events >/dev/null &
  viewers+=($!)
done
sleep 5
after=$(resident_kb)
kill "${viewers[@]}" 2>/dev/null || true
viewer_kb=$(( after > before ? (after - before) / ${#viewers[@]} : 0 ))
stop
# The Hours room with 200 entries of everybody in it.
serve 10000 8095 2000000
logged="$import_seconds s | $ready_ms ms | $resident_mb MB"
hours=$("$CARGO_TARGET_DIR/release/snug-bench" hours http://127.0.0.1:8095 --password "$password" --times 20)
stop
# Twenty people at two servers for a minute, by the test that holds both against the ledger.
rush=$(SNUG_RUSH_SECONDS=60 TEST_DATABASE_URL=$base cargo test --quiet --locked -p snug-roster --test rush -- --nocapture 2>/dev/null | grep ' edits by ')
{
  cat <<HEAD
# Performance

Written by \`make bench\` on $(nproc) cores of $(sed -n 's/^model name.*: //p' /proc/cpuinfo | head -n 1). Not a test: speed is shown, not asserted.

## The load matrix

Every person's weeks from bookings, absences and holidays, by the same function that the Fit room, the API and \`snug-roster load\`
call (\`snug_core::load::append_person_row\`, which \`person_row\` is); the benchmark differs in its reader only. Seconds: ours and
numpy's entry, which prints the same checksum, in turn, medians of 5 processes (of ours, which computes and reads 5 times, each one's own median,
with the memory of its table kept).
Reading is from the files to a plan, on all threads; numpy's to its arrays.

| size | people | days | bookings | ours, one thread | ours, all threads | numpy, one thread | reading, ours | reading, numpy | checksum |
| --- | --- | --- | --- | --- | --- | --- | --- | --- | --- |
HEAD
  printf '%s' "$rows"
  printf '\n%s. On a shared host seconds move by half from one minute to the next; compare what stands in one line.\n' "${counted^}"
  cat <<PAGES

## The scheduler

Projects under resource limits, 5 seconds each: the last finish above the best one known, in the mean of all, and of those instances of
which it is not proven that nothing is shorter. The peer is CP-SAT, one thread, 5 seconds, as the benchmark has it. On all threads a search
runs on each, with a seed of its own, and the best counts.

| activities | instances | not proven | CP-SAT | not proven | ours, one thread | not proven | ours, all threads | not proven |
| --- | --- | --- | --- | --- | --- | --- | --- | --- |
$scheduled
Undated work of 10,000 tasks and 500 people placed, with reasons; then all of it placed anew; then with 5 seconds to search, and checked:

\`\`\`
$tucked
\`\`\`

The same of 200 tasks and 26 people, with a second:

\`\`\`
$tucked_few
\`\`\`

A draft of 500 changed bookings in a workspace of 10,000 people, held against it, merged, and the weeks of forty people flattened:

\`\`\`
$drafted
\`\`\`

## The rooms of 10,000 people

60,000 bookings, 30,000 tasks with links between them, 1,250 projects, 250 teams, all made up (\`snug-bench workspace\`), at one release server over loopback: from the
request sent to the answer read, ${TIMES:-200} times each, milliseconds; bytes before compression.

| what | median | 95th percentile | kB |
| --- | --- | --- | --- |
$pages

In headless Chromium at the same server, 1280 × 800:

| what | | |
| --- | --- | --- |
$frames

## The Hours room with two million entries

The same workspace, where everybody logged 200 times in the last ten weeks. Before each reading a booking is moved, so that nothing is at
hand from the time before; the third figure is without. Entries stand in memory, person by person in the order of days, 32 bytes each besides
the record; what is alike is added up before anything is looked up or priced.

| what | median after a change | 95th percentile | median without | kB |
| --- | --- | --- | --- | --- |
$hours

## Twenty people at once

A minute of random edits, \`crates/app/tests/rush.rs\` with the development build:
$rush.
Afterwards both servers held the same plan, equal to a replay of the ledger, with an entry for every edit that was confirmed.

## What one more costs

| workspace | import | from start to ready | resident |
| --- | --- | --- | --- |
| 1,000 people, 6,000 bookings, 3,000 tasks, 125 projects | $small |
| 10,000 people, 60,000 bookings, 30,000 tasks, 1,250 projects | $large |
| the same and 2,000,000 entries | $logged |

One more person with six bookings, three tasks and an eighth of a project: $person_kb kB of memory in each server, and nothing on a page that does not show
them. One more booking: two additions to its person's row, 36 bytes in memory besides its words. One more project: its own row, and a place in
the list of filters. One more viewer: one open stream, $viewer_kb kB resident on top of what serving pages took; a change is told to each as a line of news, and each reads the rows of it that it shows.
PAGES
} >docs/performance.md
cat docs/performance.md
