#!/usr/bin/env bash
# with-postgres.sh COMMAND …: runs a command with a throw-away PostgreSQL, whose address is in TEST_DATABASE_URL. What it holds need not
# outlive the machine, so it never waits for the disk.
set -euo pipefail
cd "$(dirname "$0")/.."
folder=$(mktemp -d /tmp/snug-test-XXXXXX)
chmod 755 "$folder"
stop() { scripts/postgres.sh stop "$folder/pg"; rm -rf "$folder"; }
trap stop EXIT
TEST_DATABASE_URL=$(SNUG_PG_SETTINGS="-c fsync=off -c full_page_writes=off" scripts/postgres.sh start "$folder/pg")
export TEST_DATABASE_URL
"$@"
