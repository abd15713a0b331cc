#!/bin/sh
# Fuzzes the kernels that parse text with libFuzzer, each for so many seconds, and keeps the least corpus that reaches
# what was reached: tools/fuzz-kernels.sh [SECONDS]. An input that breaks a target is left in build/fuzz/.
# Needs clang and its libFuzzer (Debian: clang, libclang-rt-14-dev).
set -eu
cd "$(dirname "$0")/.."
seconds=${1:-1200}
command -v clang++ >/dev/null || { echo "clang++ is missing: apt-get install clang libclang-rt-14-dev" >&2; exit 2; }

for target in numbers dates delimited; do
  work=build/fuzz/$target
  kept=tests/kernels/corpus/$target.tar.gz
  rm -rf "$work" && mkdir -p "$work/from" "$work/least"
  [ ! -f "$kept" ] || tar -xzf "$kept" -C "$work/from"
  clang++ -std=gnu++17 -g -O1 -fsanitize=fuzzer,address,undefined -fno-sanitize-recover=all \
    -Isrc/kernels -Itests/kernels "tests/kernels/fuzz_$target.cpp" -o "$work/fuzz"
  echo "$target: $seconds seconds ..."
  "$work/fuzz" -max_total_time="$seconds" -max_len=120 -print_final_stats=1 -artifact_prefix="$work/" "$work/from" \
    >"$work/log" 2>&1 || { tail -40 "$work/log"; exit 1; }
  grep -E "number_of_executed_units|cov:" "$work/log" | tail -2
  "$work/fuzz" -merge=1 "$work/least" "$work/from" >>"$work/log" 2>&1
  tar --sort=name --mtime=2000-01-01 --owner=0 --group=0 --numeric-owner -C "$work/least" -cf - . | gzip -9n >"$kept"
  echo "$target: $(ls "$work/least" | wc -l) inputs kept in $kept"
done
