// A line through the figures around each place, those nearest weighing most:
// Cleveland, W. S. (1979). Robust locally weighted regression and smoothing
// scatterplots. Journal of the American Statistical Association 74, 829-836.
#ifndef BACKFILL_LOCAL_LINE_H
#define BACKFILL_LOCAL_LINE_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>

namespace backfill {

// What the line has at place i of n figures, NaN being none: through the 2 half
// + 1 places that are nearest, fewer where there are no more. NaN where fewer
// than half of `half` are known.
inline double local_line(const double* x, std::size_t n, std::size_t i,
                         std::size_t half) {
  const std::size_t width = std::min(n, 2 * half + 1);
  const std::size_t from = std::min(i > half ? i - half : 0, n - width);
  const std::size_t to = from + width;
  const double reach = 1 + static_cast<double>(std::max(i - from, to - 1 - i));
  double weights = 0, at = 0, value = 0, squares = 0, products = 0, count = 0;
  for (std::size_t k = from; k < to; ++k) {
    if (std::isnan(x[k])) continue;
    const double away = static_cast<double>(k) - static_cast<double>(i);
    const double share = std::fabs(away) / reach,
                 cube = 1 - share * share * share, weight = cube * cube * cube;
    weights += weight, at += weight * away, value += weight * x[k];
    squares += weight * away * away, products += weight * away * x[k];
    ++count;
  }
  if (count < 2 || 2 * count < static_cast<double>(half))
    return std::numeric_limits<double>::quiet_NaN();
  const double spread = squares - at * at / weights;
  const double slope =
      spread > 0 ? (products - at * value / weights) / spread : 0;
  return (value - slope * at) / weights;
}

}  // namespace backfill

#endif
