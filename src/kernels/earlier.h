// Finds, for each row, the row of the same series whose period has a wanted number: the base of a growth rate, a lag.
// By period and not by position, so that a missing row never shifts a figure by one.
#ifndef BACKFILL_EARLIER_H
#define BACKFILL_EARLIER_H

#include <cstddef>
#include <cstdint>

namespace backfill {

constexpr std::ptrdiff_t no_row = -1;

// Rows are sorted by series, then by period number, without two alike. `wanted[i]` is the number looked for from row i;
// within a series it must not fall from one row to the next. One pass: both ends only ever move forward.
inline void find_rows(const std::int32_t* series, const double* number, const double* wanted, std::size_t n,
                      std::ptrdiff_t* row) {
  std::size_t j = 0;
  for (std::size_t i = 0; i < n; ++i) {
    while (j < n && series[j] < series[i]) ++j;
    while (j < n && series[j] == series[i] && number[j] < wanted[i]) ++j;
    const bool found = j < n && series[j] == series[i] && number[j] == wanted[i];
    row[i] = found ? static_cast<std::ptrdiff_t>(j) : no_row;
  }
}

}  // namespace backfill

#endif
