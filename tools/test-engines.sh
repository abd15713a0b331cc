#!/usr/bin/env bash
# Starts the database engines that the package can count in, each on loopback with a data folder and ports of its own,
# runs the tests of tests/testthat/test-engines.R against them, and stops them. With --bench it runs bench/elsewhere.R.
# Usage: tools/test-engines.sh [--bench]
set -euo pipefail
cd "$(dirname "$0")/.."

postgres=/usr/lib/postgresql/15/bin
if [ ! -x $postgres/postgres ] || ! command -v clickhouse-server >/dev/null; then
  [ "$(id -u)" -eq 0 ] || { echo "PostgreSQL 15 and ClickHouse are not installed, and this is not root." >&2; exit 1; }
  echo "Installing PostgreSQL 15 and ClickHouse from Debian."
  apt-get update -qq >/dev/null 2>&1 || true
  # No server of Debian's own is to be started.
  policy=/usr/sbin/policy-rc.d
  if [ -e $policy ]; then policy=; else echo 'exit 101' > $policy; chmod +x $policy; fi
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends \
    postgresql-15 clickhouse-server clickhouse-client libpq-dev >/dev/null 2>&1
  [ -z "$policy" ] || rm -f "$policy"
fi
tools/setup.sh --all RPostgres

folder=$(mktemp -d /tmp/backfill-engines-XXXXXX)
chmod 755 "$folder"
first=$((20000 + $$ % 20000))
as_postgres() { if [ "$(id -u)" -eq 0 ]; then su postgres -c "$*"; else sh -c "$*"; fi; }

stop() {
  for n in 1 2; do
    [ -d "$folder/pg$n" ] && as_postgres "$postgres/pg_ctl -D $folder/pg$n -m immediate stop" >/dev/null 2>&1 || true
    [ -f "$folder/ch$n/pid" ] && kill -9 "$(cat "$folder/ch$n/pid")" 2>/dev/null || true
  done
  rm -rf "$folder"
}
trap stop EXIT

start_postgres() { # number, port
  mkdir "$folder/pg$1"
  [ "$(id -u)" -ne 0 ] || chown postgres "$folder/pg$1"
  as_postgres "$postgres/initdb -D $folder/pg$1 -A trust -U tarn -E UTF8" >/dev/null
  as_postgres "$postgres/pg_ctl -D $folder/pg$1 -l $folder/pg$1/log -w \
    -o '-p $2 -k $folder/pg$1 -c listen_addresses=127.0.0.1' start" >/dev/null
}

start_clickhouse() { # number; its ports are $web, $native, $between
  mkdir -p "$folder/ch$1"
  cat > "$folder/ch$1/config.xml" <<XML
<yandex>
  <logger><level>error</level><log>$folder/ch$1/log</log><errorlog>$folder/ch$1/errors</errorlog></logger>
  <listen_host>127.0.0.1</listen_host>
  <http_port>$web</http_port><tcp_port>$native</tcp_port><interserver_http_port>$between</interserver_http_port>
  <path>$folder/ch$1/data/</path><tmp_path>$folder/ch$1/tmp/</tmp_path>
  <users_config>users.xml</users_config><default_profile>default</default_profile>
  <default_database>default</default_database><mark_cache_size>500000000</mark_cache_size>
  <remote_servers><isles>
    <shard><replica><host>127.0.0.1</host><port>$((first + 11))</port></replica></shard>
    <shard><replica><host>127.0.0.1</host><port>$((first + 21))</port></replica></shard>
  </isles></remote_servers>
</yandex>
XML
  cat > "$folder/ch$1/users.xml" <<XML
<yandex>
  <profiles><default/><reading><readonly>1</readonly></reading></profiles>
  <users>
    <default><password></password><networks><ip>127.0.0.1</ip></networks><profile>default</profile><quota>q</quota></default>
    <reader><password>tide</password><networks><ip>127.0.0.1</ip></networks><profile>reading</profile><quota>q</quota></reader>
  </users>
  <quotas><q/></quotas>
</yandex>
XML
  (cd "$folder/ch$1" && exec clickhouse-server --config-file="$folder/ch$1/config.xml" >/dev/null 2>&1) &
  echo $! > "$folder/ch$1/pid"
  for _ in $(seq 60); do
    curl -s "http://127.0.0.1:$web/" >/dev/null && return
    sleep 0.5
  done
  echo "ClickHouse did not start: see $folder/ch$1" >&2; exit 1
}

echo "Starting two PostgreSQL and two ClickHouse servers on loopback."
start_postgres 1 $((first + 1))
start_postgres 2 $((first + 2))
web=$((first + 10)) native=$((first + 11)) between=$((first + 12)) start_clickhouse 1
web=$((first + 20)) native=$((first + 21)) between=$((first + 22)) start_clickhouse 2

export BACKFILL_POSTGRES="postgresql://tarn@127.0.0.1:$((first + 1))/postgres postgresql://tarn@127.0.0.1:$((first + 2))/postgres"
export BACKFILL_CLICKHOUSE="clickhouse://127.0.0.1:$((first + 10))/default clickhouse://127.0.0.1:$((first + 20))/default"
export BACKFILL_SHARD_PID="$folder/ch2/pid"
export R_LIBS="$PWD/build/library:${R_LIBS:-}" BACKFILL_SOURCE="$PWD"
if [ "${1:-}" = --bench ]; then
  Rscript --vanilla bench/elsewhere.R
else
  TESTTHAT_PARALLEL=false Rscript --vanilla tools/run-tests.R engines
fi
