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
  std::size_t longer = 0;   // returns over more than one period
  std::size_t too_old = 0;  // that would go back too far
};

// Of the periods of one series, numbered; NaN is no figure, and a return goes
// back to the latest one before, which lies no more than `max_age` of those
// periods back that are open: `opened` counts these up to each.
inline void returns(const double* number, const double* value,
                    const double* opened, std::size_t n, Return what,
                    double max_age, double* out, ReturnCounts& counts) {
  const double nan = std::numeric_limits<double>::quiet_NaN();
  double first = nan, last = nan, last_number = 0, last_opened = 0,
         highest = nan;
  for (std::size_t i = 0; i < n; ++i) {
    out[i] = nan;
    if (std::isnan(value[i])) {
      ++counts.not_whole;
      continue;
    }
    const double before = last, age = number[i] - last_number,
                 opened_since = opened[i] - last_opened;
    last = value[i];
    last_number = number[i];
    last_opened = opened[i];
    if (!(value[i] > 0)) {
      ++counts.not_positive;
      continue;
    }
    if (std::isnan(first)) first = highest = value[i];
    if (value[i] > highest) highest = value[i];
    if (what == Return::wealth) {
      out[i] = value[i] / first;
    } else if (what == Return::drawdown) {
      out[i] = value[i] / highest - 1;
    } else if (std::isnan(before)) {
      ++counts.first;
    } else if (!(before > 0)) {
      ++counts.not_positive;
    } else if (opened_since > max_age) {
      ++counts.too_old;
    } else {
      out[i] = what == Return::simple ? (value[i] - before) / before
                                      : std::log(value[i] / before);
      counts.longer += age > 1;
    }
  }
}

}  // namespace backfill

#endif
