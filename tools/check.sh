#!/bin/sh
# R CMD check of the built package, without the PDF manual. Errors and warnings fail; notes are listed.
set -eu
cd "$(dirname "$0")/.."
mkdir -p build/check
rm -rf build/check/*
(cd build/check && R CMD build ../.. >build.log 2>&1) || { cat build/check/build.log; exit 1; }
tarball=$(ls build/check/backfill_*.tar.gz)
echo "Checking $tarball ..."
status=0
# A check that looks for the time on the network, or for system tools that only CRAN needs, says nothing on the package.
_R_CHECK_SYSTEM_CLOCK_=false _R_CHECK_FORCE_SUGGESTS_=false \
  R CMD check --no-manual --output=build/check "$tarball" >build/check/check.log 2>&1 || status=$?
log=build/check/check.log
grep -A 8 -E '\.\.\. (NOTE|WARNING|ERROR)' "$log" || true
grep -E '^Status' "$log" || true
[ "$status" -eq 0 ] || { tail -n 60 "$log"; exit "$status"; }
if grep -q -E '^Status:.*(WARNING|ERROR)' "$log"; then exit 1; fi
echo "Running what the README and the guides show ..."
R_LIBS="$PWD/build/library:${R_LIBS-}" Rscript --vanilla tools/readme.R --check
