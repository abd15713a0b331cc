// Finds, for each row, the row of the same series whose period has a wanted
// number: the base of a growth rate, a lag. By period and not by position, so
// that a missing row never shifts a figure by one.
#ifndef BACKFILL_EARLIER_H
#define BACKFILL_EARLIER_H

#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace backfill {

constexpr std::ptrdiff_t no_row = -1;

// Rows are sorted by series, then by period number, without two alike.
// `wanted(i)` is the number looked for from row i, NaN for none; `put(i, row)`
// is told the row or `no_row`. One pass, as it mostly rises along a series (and
// falls by a day at most: the hours of 29 February are looked for in those of
// the 28th, as are the 28th's).
template <typename Wanted, typename Put>
void find_rows(const std::int32_t* series, const double* number, Wanted wanted,
               std::size_t n, Put put) {
  std::size_t j = 0;
  for (std::size_t i = 0; i < n; ++i) {
    while (j < n && series[j] < series[i]) ++j;
    while (j < n && series[j] == series[i] && number[j] < wanted(i)) ++j;
    while (j > 0 && series[j - 1] == series[i] && number[j - 1] >= wanted(i))
      --j;
    const bool found =
        j < n && series[j] == series[i] && number[j] == wanted(i);
    put(i, found ? static_cast<std::ptrdiff_t>(j) : no_row);
  }
}

// The latest row with a figure whose number lies from `max_age` before the
// wanted one up to it.
template <typename Wanted, typename Put>
void find_latest(const std::int32_t* series, const double* number,
                 const double* value, Wanted wanted, double max_age,
                 std::size_t n, Put put) {
  std::vector<std::ptrdiff_t> known(
      n);  // the latest row with a figure up to each
  for (std::size_t i = 0; i < n; ++i) {
    const bool goes_on = i > 0 && series[i] == series[i - 1];
    known[i] = !std::isnan(value[i]) ? static_cast<std::ptrdiff_t>(i)
               : goes_on             ? known[i - 1]
                                     : no_row;
  }
  std::size_t j =
      0;  // the row behind the last one that is not after the wanted number
  for (std::size_t i = 0; i < n; ++i) {
    while (j < n && (series[j] < series[i] ||
                     (series[j] == series[i] && number[j] <= wanted(i))))
      ++j;
    while (j > 0 && series[j - 1] == series[i] && !(number[j - 1] <= wanted(i)))
      --j;
    const std::ptrdiff_t latest =
        j > 0 && series[j - 1] == series[i] ? known[j - 1] : no_row;
    put(i, latest != no_row && number[latest] >= wanted(i) - max_age ? latest
                                                                     : no_row);
  }
}

}  // namespace backfill

#endif
