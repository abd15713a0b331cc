// What the records of one period add up to: a compensated sum (Neumaier 1974), their count, and the count of distinct
// slots of the cadence they fill.
#ifndef BACKFILL_ACCUMULATE_H
#define BACKFILL_ACCUMULATE_H

#include <cmath>
#include <cstdint>

namespace backfill {

// Neumaier, A. (1974). Rundungsfehleranalyse einiger Verfahren zur Summation endlicher Summen. ZAMM 54, 39-51.
struct Sum {
  double total = 0;
  double lost = 0;  // what rounding has cut off so far

  void add(double value) {
    const double next = total + value;
    lost += std::fabs(total) >= std::fabs(value) ? (total - next) + value : (value - next) + total;
    total = next;
  }
  double value() const { return total + lost; }
};

struct Accumulator {
  Sum sum;
  std::int32_t records = 0;
  std::int32_t slots = 0;
};

}  // namespace backfill

#endif
