// What the fuzz targets share. Each is one function of any bytes, for libFuzzer
// (`make fuzz-kernels`) and for replay.cpp.
#ifndef BACKFILL_FUZZ_H
#define BACKFILL_FUZZ_H

#include <cstddef>
#include <cstdint>
#include <cstdio>
#include <cstdlib>

inline void must(bool holds, const char* what) {
  if (holds) return;
  std::fprintf(stderr, "does not hold: %s\n", what);
  std::abort();
}

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data,
                                      std::size_t size);

#endif
