// What a series' figures are like, whatever their order: moments, quantiles,
// ends, and those that the box rule sets apart.
#ifndef BACKFILL_DESCRIBE_H
#define BACKFILL_DESCRIBE_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "accumulate.h"
#include "quantile.h"

namespace backfill {

struct Described {
  static constexpr double none = std::numeric_limits<double>::quiet_NaN();
  double mean = none;
  // Sums of the second, third and fourth powers of the distances from the mean.
  double squares = none, cubes = none, fourths = none;
  double autocorrelation = none;  // of neighbours
  std::size_t count = 0, lowest = 0, highest = 0;
};

// The autocorrelation at lag 1, as that of autocorrelation.h: of figures in
// places next to each other, about the mean of all; NaN where nothing varies.
inline double beside_correlation(const double* x, const double* place,
                                 std::size_t n, const Described& all) {
  Sum products;
  std::size_t pairs = 0;
  std::size_t last = n;
  for (std::size_t i = 0; i < n; ++i) {
    if (std::isnan(x[i])) continue;
    if (last < n && place[i] == place[last] + 1) {
      products.add((x[i] - all.mean) * (x[last] - all.mean));
      ++pairs;
    }
    last = i;
  }
  if (pairs < 2 || !(all.squares > 0)) return Described::none;
  const double r = (products.value() / static_cast<double>(pairs + 1)) /
                   (all.squares / static_cast<double>(all.count));
  return std::abs(r) <= 1 ? r : Described::none;
}

// NaN is no figure. Powers are taken about the mean, which is exact to the last
// digits that the figures have.
inline Described described(const double* x, const double* place,
                           std::size_t n) {
  Described out;
  Sum sum;
  for (std::size_t i = 0; i < n; ++i) {
    if (std::isnan(x[i])) continue;
    if (out.count == 0) out.lowest = out.highest = i;
    if (x[i] < x[out.lowest]) out.lowest = i;
    if (x[i] > x[out.highest]) out.highest = i;
    sum.add(x[i]);
    ++out.count;
  }
  if (out.count == 0) return out;
  out.mean = sum.value() / static_cast<double>(out.count);
  Sum second, third, fourth;
  for (std::size_t i = 0; i < n; ++i) {
    if (std::isnan(x[i])) continue;
    const double off = x[i] - out.mean, square = off * off;
    second.add(square);
    third.add(square * off);
    fourth.add(square * square);
  }
  const bool even = x[out.lowest] == x[out.highest];
  out.squares = even ? 0 : second.value();
  out.cubes = even ? 0 : third.value();
  out.fourths = even ? 0 : fourth.value();
  out.autocorrelation = beside_correlation(x, place, n, out);
  return out;
}

// Beyond these a figure stands apart: one and a half times the distance of the
// quartiles below the lower and above the upper one. Tukey, J. W. (1977).
// Exploratory Data Analysis. Addison-Wesley.
struct Fences {
  double low, high;
  Fences(double lower, double upper)
      : low(lower - 1.5 * (upper - lower)),
        high(upper + 1.5 * (upper - lower)) {}
  bool beyond(double x) const { return x < low || x > high; }
};

}  // namespace backfill

#endif
