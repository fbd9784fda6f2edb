#!/usr/bin/env bash
# Fuzzes the API by its own OpenAPI description, on a throw-away database with the demo in it. Needs Python 3; schemathesis is put into a
# folder of its own. What is given after the name is handed on, as `scripts/fuzz.sh --max-examples 200`.
set -euo pipefail
cd "$(dirname "$0")/.."
cache=$(dirname "$CARGO_TARGET_DIR")
python=$cache/venv/bin/python
[ -x "$python" ] || python3 -m venv "$cache/venv"
"$python" -c 'import schemathesis' 2>/dev/null || "$cache/venv/bin/pip" install -q schemathesis
cargo build --quiet --locked -p snug-roster
program=$CARGO_TARGET_DIR/debug/snug-roster
export DATABASE_URL=$TEST_DATABASE_URL
"$program" demo demo >/dev/null
token=$("$program" token mira@tidewater.test --write)
log=$(mktemp)
RUST_LOG=warn "$program" serve --port 0 >"$log" &
server=$!
report=$(mktemp -d)
trap 'kill "$server" 2>/dev/null; rm -rf "$log" "$report"' EXIT
until grep -q http "$log"; do kill -0 "$server"; done
address=$(sed -n 's/.* //p' "$log")
"$cache/venv/bin/schemathesis" run "$address/api/v1/openapi.json" --header "Authorization: Bearer $token" --seed 1 --max-examples 60 --continue-on-failure "$@"
