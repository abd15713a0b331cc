// Any bytes as a number: read to a finite figure that reads back as itself, or
// given a reason; never anything else.
#include <cmath>
#include <cstdio>
#include <cstring>

#include "fuzz.h"
#include "written_number.h"

using namespace backfill;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data,
                                      std::size_t size) {
  const char* text = reinterpret_cast<const char*>(data);
  for (const char decimal : {'.', ','}) {
    const WrittenNumber number = read_number(text, size, decimal);
    if (number.outcome != NumberOutcome::read) continue;
    must(std::isfinite(number.value), "a number that was read is finite");
    char said[40];
    std::snprintf(said, sizeof said, "%.17g", number.value);
    if (char* point = std::strchr(said, '.')) *point = decimal;
    const WrittenNumber again = read_number(said, std::strlen(said), decimal);
    must(again.outcome == NumberOutcome::read && again.value == number.value,
         "it reads back as itself");
  }
  return 0;
}
