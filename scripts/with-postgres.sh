#!/usr/bin/env bash
# with-postgres.sh COMMAND …: runs a command with a throw-away PostgreSQL, whose address is in TEST_DATABASE_URL.
set -euo pipefail
cd "$(dirname "$0")/.."
folder=$(mktemp -d /tmp/snug-test-XXXXXX)
chmod 755 "$folder"
stop() { scripts/postgres.sh stop "$folder/pg"; rm -rf "$folder"; }
trap stop EXIT
TEST_DATABASE_URL=$(scripts/postgres.sh start "$folder/pg")
export TEST_DATABASE_URL
"$@"
