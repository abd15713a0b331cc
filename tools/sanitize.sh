#!/usr/bin/env bash
# Builds the package with what watches every access to memory and every undefined operation, and runs the tests that
# touch the kernels on it. What is seen ends the process that did it, so that its test fails.
# Usage: tools/sanitize.sh [NAMES OF TEST FILES]
set -euo pipefail
cd "$(dirname "$0")/.."

library=$PWD/build/sanitized
mkdir -p "$library"
seen="-fsanitize=address,undefined -fno-sanitize-recover=undefined"
cat > build/sanitized.mk <<MK
CXX17FLAGS = -O1 -g -fno-omit-frame-pointer $seen
LDFLAGS = $seen
MK
echo "Building with sanitizers into build/sanitized ..."
R_MAKEVARS_USER=$PWD/build/sanitized.mk MAKE="make -j2" R CMD INSTALL --preclean --clean --no-test-load \
  --library="$library" . >build/sanitized.log 2>&1 || { cat build/sanitized.log; exit 1; }

[ $# -gt 0 ] || set -- kernels calendar cadence unlike-cadence roll-up statistics counts gaps spans further change \
  change-verbs moving season season-form season-moves spells effects projection revisions lags flags links describe \
  differences dates read formats headers layouts write oracle together whole-weeks market-days
# Of R itself no leaks are looked for; it frees what it has when it ends.
export ASAN_OPTIONS=detect_leaks=0 UBSAN_OPTIONS=print_stacktrace=1
export LD_PRELOAD="$(g++ -print-file-name=libasan.so) $(g++ -print-file-name=libstdc++.so)"
R_LIBS="$library:${R_LIBS:-}" BACKFILL_SOURCE=$PWD Rscript --vanilla tools/run-tests.R "$@"
