// Returns of a level, and what they have come to so far.
#ifndef BACKFILL_RETURNS_H
#define BACKFILL_RETURNS_H

#include <cmath>
#include <cstddef>
#include <limits>

namespace backfill {

enum class Return { simple = 0, log = 1, wealth = 2, drawdown = 3 };

struct ReturnCounts {
  std::size_t first = 0, not_whole = 0, not_positive = 0;
  std::size_t longer = 0;  // returns over more than one period
};

// Of the periods of one series, numbered; NaN is no figure, and a return goes back to the latest one before.
inline void returns(const double* number, const double* value, std::size_t n, Return what, double* out,
                    ReturnCounts& counts) {
  const double nan = std::numeric_limits<double>::quiet_NaN();
  double first = nan, last = nan, last_number = 0, highest = nan;
  for (std::size_t i = 0; i < n; ++i) {
    out[i] = nan;
    if (std::isnan(value[i])) {
      ++counts.not_whole;
      continue;
    }
    const double before = last, number_before = last_number;
    last = value[i];
    last_number = number[i];
    if (!(value[i] > 0)) {
      ++counts.not_positive;
      continue;
    }
    if (std::isnan(first)) first = highest = value[i];
    if (value[i] > highest) highest = value[i];
    if (what == Return::wealth) {
      out[i] = value[i] / first;
    } else if (what == Return::drawdown) {
      out[i] = 100 * (value[i] / highest - 1);
    } else if (std::isnan(before)) {
      ++counts.first;
    } else if (!(before > 0)) {
      ++counts.not_positive;
    } else {
      out[i] = what == Return::simple ? 100 * (value[i] - before) / before : std::log(value[i] / before);
      counts.longer += number[i] != number_before + 1;
    }
  }
}

}  // namespace backfill

#endif
