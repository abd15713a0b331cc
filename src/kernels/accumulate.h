// What the records of one period add up to. Accumulators merge: those of two
// parts of the records make that of the whole.
#ifndef BACKFILL_ACCUMULATE_H
#define BACKFILL_ACCUMULATE_H

#include <cmath>
#include <cstdint>
#include <limits>

namespace backfill {

// A compensated sum. Neumaier, A. (1974). Rundungsfehleranalyse einiger
// Verfahren zur Summation endlicher Summen. ZAMM 54, 39-51. What an addition
// cuts off is found without asking which of the two is larger: Knuth, D. E.
// (1997). The Art of Computer Programming, vol. 2, 3rd ed., section 4.2.2,
// theorem B.
struct Sum {
  double total = 0;
  double lost = 0;  // what rounding has cut off so far

  void add(double value) {
    const double next = total + value;
    const double of_value = next - total;
    lost += (total - (next - of_value)) + (value - of_value);
    total = next;
  }
  void add(const Sum& other) {
    add(other.total);
    lost += other.lost;
  }
  // Beyond the range of doubles, what was cut off means nothing.
  double value() const { return std::isfinite(total) ? total + lost : total; }
};

// The sum, the records, and the distinct slots of the cadence that they fill,
// which the roll-up counts.
struct Totals {
  Sum sum;
  std::int32_t records = 0;
  std::int32_t slots = 0;

  void add(double value, double /*at*/) {
    sum.add(value);
    ++records;
  }
  void add(const Totals& other) {
    sum.add(other.sum);
    records += other.records;
    slots += other.slots;
  }
};

// And the extremes, the first and last in time, and the spread about the mean,
// updated as in Welford, B. P. (1962). Note on a method for calculating
// corrected sums of squares and products. Technometrics 4, 419-420; merged as
// in Chan, T. F., Golub, G. H. and LeVeque, R. J. (1983). Algorithms for
// computing the sample variance. The American Statistician 37, 242-247.
struct Statistics : Totals {
  double lowest = std::numeric_limits<double>::infinity();
  double highest = -std::numeric_limits<double>::infinity();
  double first = 0, last = 0;
  double first_at = std::numeric_limits<double>::infinity();
  double last_at = -std::numeric_limits<double>::infinity();
  // The mean less the first value, so that small differences between large
  // values are not lost.
  double pivot = 0, mean = 0, squares = 0;

  void add(double value, double at) {
    if (records == 0) pivot = value;
    Totals::add(value, at);
    if (value < lowest) lowest = value;
    if (value > highest) highest = value;
    // Of several at one time the first and the last in the order of the
    // records.
    if (at < first_at) {
      first_at = at;
      first = value;
    }
    if (at >= last_at) {
      last_at = at;
      last = value;
    }
    const double beside = value - pivot, off = beside - mean;
    mean += off / records;
    squares += off * (beside - mean);
  }
  void add(const Statistics& other) {
    if (other.records == 0) return;
    if (records == 0) pivot = other.pivot;
    const double here = records, there = other.records,
                 off = (other.pivot - pivot) + (other.mean - mean);
    mean += off * there / (here + there);
    squares += other.squares + off * off * here * there / (here + there);
    Totals::add(other);
    if (other.lowest < lowest) lowest = other.lowest;
    if (other.highest > highest) highest = other.highest;
    if (other.first_at < first_at) {
      first_at = other.first_at;
      first = other.first;
    }
    if (other.last_at >= last_at) {
      last_at = other.last_at;
      last = other.last;
    }
  }
  // Of a sample; NaN of fewer than two.
  double deviation() const {
    return records < 2 ? std::numeric_limits<double>::quiet_NaN()
                       : std::sqrt(squares / (records - 1));
  }
};

}  // namespace backfill

#endif
