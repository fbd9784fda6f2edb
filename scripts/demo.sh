#!/usr/bin/env bash
# Everything from a bare checkout to the running application with its demo. Ctrl-C stops all that this started.
set -euo pipefail
cd "$(dirname "$0")/.."
port=${PORT:-8080}
node -e 'const s=require("net").createServer();s.once("error",()=>process.exit(1));s.listen(+process.argv[1],"127.0.0.1",()=>s.close())' "$port" ||
  { echo "Port $port is in use by another program. Choose another one: PORT=8081 make demo" >&2; exit 1; }
scripts/install.sh
folder=${SNUG_DEMO_FOLDER:?set by the Makefile}
[ "${1:-}" = --reset ] && { scripts/postgres.sh stop "$folder"; rm -rf "$folder"; }
echo "Building; the first time this takes some minutes, and cargo says crate by crate how far it is:"
cargo build --locked -p snug-roster
program=$CARGO_TARGET_DIR/debug/snug-roster
server=""
stop() {
  trap '' INT TERM # a second Ctrl-C must not leave PostgreSQL running
  if [ -n "$server" ]; then
    kill "$server" 2>/dev/null || true
    wait "$server" 2>/dev/null || true
  fi
  scripts/postgres.sh stop "$folder"
}
trap stop EXIT
trap 'exit 130' INT TERM
DATABASE_URL=$(scripts/postgres.sh start "$folder")
export DATABASE_URL
export FILES=$folder/files
"$program" demo demo
RUST_LOG=${RUST_LOG:-warn} PORT=$port "$program" serve --demo --mail "$folder/mail" &
server=$!
cat <<SAY

  Open http://127.0.0.1:$port and sign in as the resource manager:
    e-mail    mira@tidewater.test
    password  tidewater-2026
  The sign-in page lists the others. Ctrl-C stops everything; the data stay (make demo-reset starts over).

SAY
wait "$server"
