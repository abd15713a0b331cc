// A straight line through a series, and how sure it is where its residuals hang
// together.
#ifndef BACKFILL_TREND_H
#define BACKFILL_TREND_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "accumulate.h"

namespace backfill {

// By least squares over the places of a regular grid, NaN being no figure.
struct Line {
  double level = std::numeric_limits<double>::quiet_NaN();  // at place 0
  double slope = std::numeric_limits<double>::quiet_NaN();
  double mean = std::numeric_limits<double>::quiet_NaN();
  double places = 0;  // sum of squares of the places about their mean
  std::size_t count = 0;

  double at(double place) const { return level + slope * place; }
};

inline Line fit_line(const double* x, std::size_t n) {
  Line line;
  Sum sum, sum_of_places;
  for (std::size_t i = 0; i < n; ++i) {
    if (std::isnan(x[i])) continue;
    sum.add(x[i]);
    sum_of_places.add(static_cast<double>(i));
    ++line.count;
  }
  if (line.count == 0) return line;
  const double count = static_cast<double>(line.count),
               middle = sum_of_places.value() / count;
  line.mean = sum.value() / count;
  Sum product;
  for (std::size_t i = 0; i < n; ++i) {
    if (std::isnan(x[i])) continue;
    const double off = static_cast<double>(i) - middle;
    product.add(off * (x[i] - line.mean));
    line.places += off * off;
  }
  if (line.count < 2) return line;
  line.slope = product.value() / line.places;
  line.level = line.mean - line.slope * middle;
  return line;
}

// The standard error of the slope by as many independent figures as those of
// the series are worth: n (1 - r) / (1 + r) with the lag-1 autocorrelation r of
// the residuals, where that is above 0. Santer, B. D. et al. (2000).
// Statistical significance of trends and trend differences in layer-average
// atmospheric temperature time series. Journal of Geophysical Research 105,
// 7337-7356. What a line, and dividing by n, take of the autocorrelation is put
// back: r is low by (2 + 5 r) / n.
struct LineError {
  double r_squared, autocorrelation, worth, error;
};

inline LineError error_of_line(const Line& line, const double* x,
                               std::size_t n) {
  const double none = std::numeric_limits<double>::quiet_NaN();
  LineError out{none, none, none, none};
  if (line.count < 3) return out;
  double left = 0, all = 0, beside = 0, before = none;
  std::size_t pairs = 0;
  for (std::size_t i = 0; i < n; ++i) {
    const double off =
        x[i] - line.at(static_cast<double>(i));  // NaN where there is no figure
    if (!std::isnan(off)) {
      left += off * off;
      all += (x[i] - line.mean) * (x[i] - line.mean);
      if (!std::isnan(before)) {
        beside += off * before;
        ++pairs;
      }
    }
    before = off;
  }
  const double count = static_cast<double>(line.count);
  if (all > 0) out.r_squared = 1 - left / all;
  out.worth = count;
  if (pairs > 0 && left > 0) {
    // Divided as in autocorrelation.h, and as there none beyond 1.
    out.autocorrelation =
        (beside / static_cast<double>(pairs + 1)) / (left / count);
    const double r = std::min(
        0.99, std::max(0.0, out.autocorrelation +
                                (2 + 5 * out.autocorrelation) / count));
    out.worth = std::min(count, count * (1 - r) / (1 + r));
    if (std::abs(out.autocorrelation) > 1) out.autocorrelation = none;
  }
  if (out.worth > 2)
    out.error = std::sqrt(left / (out.worth - 2) / line.places);
  return out;
}

}  // namespace backfill

#endif
