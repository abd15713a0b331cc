// Quantiles of the values of each cell, which need all of them at hand.
#ifndef BACKFILL_QUANTILE_H
#define BACKFILL_QUANTILE_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

namespace backfill {

// Between the two values nearest to the rank 1 + (n - 1) share, in proportion
// (definition 7 of Hyndman, R. J. and Fan, Y. (1996). Sample quantiles in
// statistical packages. The American Statistician 50, 361-365). The values are
// put in another order.
inline double quantile(double* from, double* to, double share) {
  const std::ptrdiff_t n = to - from;
  if (n == 0) return std::numeric_limits<double>::quiet_NaN();
  const double rank = static_cast<double>(n - 1) * share;
  const std::ptrdiff_t below = static_cast<std::ptrdiff_t>(rank);
  std::nth_element(from, from + below, to);
  const double low = from[below];
  const double part = rank - static_cast<double>(below);
  if (part == 0 || below + 1 == n) return low;
  return low + part * (*std::min_element(from + below + 1, to) - low);
}

}  // namespace backfill

#endif
