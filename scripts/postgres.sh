#!/usr/bin/env bash
# postgres.sh start FOLDER   starts a private PostgreSQL on a free loopback port (or SNUG_PG_PORT) and prints its address
# postgres.sh stop FOLDER    stops it
# SNUG_PG_SETTINGS are more of the server's own arguments.
# The cluster lives in FOLDER and is made when missing. As root it belongs to the user postgres, who must be able to reach FOLDER.
set -euo pipefail
action=${1:?start or stop} folder=${2:?a folder}

bin=$(dirname "$(readlink -f "$(command -v initdb || ls /usr/lib/postgresql/*/bin/initdb 2>/dev/null | tail -n 1 || true)")")
[ -x "$bin/pg_ctl" ] || { echo "PostgreSQL's server programs are not installed; run scripts/install.sh" >&2; exit 1; }
# PostgreSQL refuses to run as root.
as() { if [ "$(id -u)" = 0 ]; then (cd / && exec setpriv --reuid postgres --regid postgres --init-groups env HOME=/tmp "$@"); else "$@"; fi; }
free_port() { node -e 'const s=require("net").createServer();s.listen(0,"127.0.0.1",()=>{console.log(s.address().port);s.close()})'; }

case $action in
  start)
    if [ ! -f "$folder/data/PG_VERSION" ]; then
      mkdir -p "$folder"
      [ "$(id -u)" = 0 ] && chown postgres: "$folder"
      as "$bin/initdb" -D "$folder/data" -U snug --auth=trust --encoding=UTF8 --locale=C.UTF-8 >/dev/null
    fi
    if ! as "$bin/pg_ctl" -D "$folder/data" status >/dev/null 2>&1; then
      as "$bin/pg_ctl" -D "$folder/data" -w -l "$folder/postgres.log" \
        -o "-c listen_addresses=127.0.0.1 -c port=${SNUG_PG_PORT:-$(free_port)} -c unix_socket_directories=$folder ${SNUG_PG_SETTINGS:-}" start >/dev/null
    fi
    port=$(as sed -n 4p "$folder/data/postmaster.pid")
    as "$bin/psql" -h 127.0.0.1 -p "$port" -U snug -d postgres -qtAc "SELECT 1 FROM pg_database WHERE datname = 'snug'" | grep -q 1 ||
      as "$bin/createdb" -h 127.0.0.1 -p "$port" -U snug snug
    echo "postgres://snug@127.0.0.1:$port/snug"
    ;;
  stop) as "$bin/pg_ctl" -D "$folder/data" -m fast -w stop >/dev/null 2>&1 || true ;;
  *) echo "start or stop" >&2; exit 2 ;;
esac
