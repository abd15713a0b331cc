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
#include "memory.h"

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

// The standard error of the slope, over all memories that the residuals may
// have, and as how many independent figures they count by it; with their lag-1
// autocorrelation, divided as in autocorrelation.h.
struct LineError {
  double r_squared = std::numeric_limits<double>::quiet_NaN();
  double autocorrelation = std::numeric_limits<double>::quiet_NaN();
  double worth = std::numeric_limits<double>::quiet_NaN();
  double error = std::numeric_limits<double>::quiet_NaN();
};

inline LineError error_of_line(const Line& line, const double* x,
                               std::size_t n) {
  LineError out;
  if (line.count < 3) return out;
  double left = 0, all = 0, beside = 0, pairs = 0;
  double before = std::numeric_limits<double>::quiet_NaN();
  Column place, y;
  for (std::size_t i = 0; i < n; ++i) {
    const double off =
        x[i] - line.at(static_cast<double>(i));  // NaN where there is no figure
    if (!std::isnan(off)) {
      place.push_back(static_cast<double>(i)), y.push_back(x[i]);
      left += off * off;
      all += (x[i] - line.mean) * (x[i] - line.mean);
      if (!std::isnan(before)) beside += off * before, ++pairs;
    }
    before = off;
  }
  const double count = static_cast<double>(line.count);
  if (all > 0) out.r_squared = 1 - left / all;
  if (pairs > 0 && left > 0) {
    const double r = (beside / (pairs + 1)) / (left / count);
    if (std::abs(r) <= 1) out.autocorrelation = r;
  }
  Column share(place);
  double middle = 0;
  for (double one : place) middle += one / count;
  for (double& one : share) one = (one - middle) / line.places;
  const std::vector<Likely> likely =
      likely_memories(y, {Column(y.size(), 1), place}, place);
  const double squared = variance_of(share, place, likely),
               alone = left / (count - 2) / line.places;
  out.worth = squared > alone ? 2 + (count - 2) * alone / squared : count;
  out.error = std::sqrt(std::max(squared, alone));
  return out;
}

}  // namespace backfill

#endif
