// What the doors along a series share.
#ifndef BACKFILL_SERIES_H
#define BACKFILL_SERIES_H

#include <Rcpp.h>

#include <cmath>

namespace backfill {

// Calls `use` with each series' first row and the one behind its last.
template <typename Use>
void each_series(const Rcpp::IntegerVector& series, Use use) {
  const int* const at = series.begin();
  const std::size_t n = static_cast<std::size_t>(series.size());
  for (std::size_t start = 0, end = 0; start < n; start = end) {
    while (end < n && at[end] == at[start]) ++end;
    use(start, end);
  }
}

inline double as_r(double x) { return std::isnan(x) ? NA_REAL : x; }

}  // namespace backfill

#endif
