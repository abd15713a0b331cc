#!/bin/sh
# What a newcomer gets within the first hour of files of his own: shares of periods used, what is found of what was planted,
# lines printed, seconds. Uses the command that `make` built, or the one named as argument.
set -eu
cd "$(dirname "$0")/.."
command=$(realpath "${1:-build/library/backfill/exec/backfill}")
R_LIBS="$PWD/build/library:${R_LIBS:-}" Rscript --vanilla tools/first-hour.R "$command"
