// What the doors along a series share.
#ifndef BACKFILL_SERIES_H
#define BACKFILL_SERIES_H

#include <Rcpp/Lightest>

#include <cmath>
#include <vector>

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

// The same as a list, for work that is shared out.
struct Ends {
  std::size_t start, end;
};

inline std::vector<Ends> ends_of_series(const Rcpp::IntegerVector& series) {
  std::vector<Ends> ends;
  each_series(series, [&](std::size_t start, std::size_t end) {
    ends.push_back({start, end});
  });
  return ends;
}

inline double as_r(double x) { return std::isnan(x) ? NA_REAL : x; }

}  // namespace backfill

#endif
