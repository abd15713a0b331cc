// Exponential smoothing of a level: Brown, R. G. (1959). Statistical
// Forecasting for Inventory Control. McGraw-Hill.
#ifndef BACKFILL_SMOOTH_H
#define BACKFILL_SMOOTH_H

#include <cmath>
#include <cstddef>
#include <limits>

namespace backfill {

// Starts with the first figure; where there is none (NaN) the level stays and
// nothing is given.
inline void smooth(const double* x, std::size_t n, double alpha, double* out) {
  double level = std::numeric_limits<double>::quiet_NaN();
  for (std::size_t i = 0; i < n; ++i) {
    if (!std::isnan(x[i]))
      level = std::isnan(level) ? x[i] : level + alpha * (x[i] - level);
    out[i] = std::isnan(x[i]) ? x[i] : level;
  }
}

}  // namespace backfill

#endif
