#!/usr/bin/env bash
# Measures, and writes docs/performance.md. Needs Python 3; numpy is put into a folder of its own. BENCH holds the generator and
# the peers of the neutral benchmark (a sibling folder of the checkout).
set -euo pipefail
cd "$(dirname "$0")/.."
bench=${BENCH:-../shared/bench/load}
cache=$(dirname "$CARGO_TARGET_DIR")
python=$cache/venv/bin/python
[ -x "$python" ] || python3 -m venv "$cache/venv"
"$python" -c 'import numpy' 2>/dev/null || "$cache/venv/bin/pip" install -q numpy==2.4.6
cargo build --release --quiet --locked -p snug-bench
sizes=("S 1 200 182 3000" "M 1 2000 364 60000" "L 1 10000 728 1000000")
rows=""
for size in "${sizes[@]}"; do
  read -r name seed people days bookings <<<"$size"
  folder=$cache/bench/$name
  [ -f "$folder/bookings.csv" ] || "$python" "$bench/gen.py" "$seed" "$people" "$days" "$bookings" "$folder"
  ours=$("$CARGO_TARGET_DIR/release/snug-bench" load "$folder" --runs 5)
  seconds() { sed -n "s/^compute seconds \([0-9.]*\) ($1.*/\1/p" <<<"$ours"; }
  peer="" peer_sum=""
  for _ in 1 2 3 4 5; do
    # The peer runs with its own library's default kernels.
    out=$(env -u OPENBLAS_CORETYPE -u OPENBLAS_L2_SIZE "$python" "$bench/peer_numpy.py" "$folder")
    peer+=$(sed -n 's/.*compute_s=\([0-9.]*\).*/\1/p' <<<"$out")$'\n'
    peer_sum=$(grep ^CHECKSUM <<<"$out")
  done
  sum=$(grep ^CHECKSUM <<<"$ours" | sort -u)
  [ "$sum" = "$peer_sum" ] || { echo "$name: the checksums differ: $sum / $peer_sum" >&2; exit 1; }
  rows+="| $name | $people | $days | $bookings | $(seconds 'one thread') | $(seconds 'all threads') | $(sort -n <<<"$peer" | sed '/^$/d' | sed -n 3p) | \`${sum#CHECKSUM }\` |"$'\n'
done
{
  cat <<HEAD
# Performance

Written by \`make bench\` on $(nproc) cores of $(sed -n 's/^model name.*: //p' /proc/cpuinfo | head -n 1). Not a test: speed is shown, not asserted.

## The load matrix

Every person's weeks from bookings, absences and holidays, by the same function that the Fit room, the API and \`snug-roster load\`
call (\`snug_core::load::person_row\`); the benchmark differs in its reader only. Seconds of computing, reading apart, medians of 5;
numpy's entry was measured in the same run and prints the same checksum.

| size | people | days | bookings | ours, one thread | ours, all threads | numpy, one thread | checksum |
| --- | --- | --- | --- | --- | --- | --- | --- |
HEAD
  printf '%s' "$rows"
} >docs/performance.md
cat docs/performance.md
