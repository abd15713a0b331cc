// On which side of what was usual before a deviation lies. Usual is the mean of
// the deviations before it, in amounts or in shares of the baseline, whichever
// have changed less with time: a baseline that lags behind a straight trend is
// off by a steady amount, behind growth by a steady share.
#ifndef BACKFILL_USUAL_H
#define BACKFILL_USUAL_H

#include <cmath>
#include <cstddef>

namespace backfill {

// What came before, and how far it goes with time.
class AgainstTime {
 public:
  void add(double at, double x) {
    if (!std::isfinite(x)) return;
    count_ += 1;
    const double later = at - middle_, off = x - mean_;
    middle_ += later / count_;
    mean_ += off / count_;
    times_ += later * (at - middle_);
    squares_ += off * (x - mean_);
    products_ += later * (x - mean_);
  }
  double count() const { return count_; }
  double mean() const { return mean_; }
  // The square of the correlation with time; 0 where nothing varies.
  double drift() const {
    const double both = times_ * squares_;
    return both > 0 ? products_ * products_ / both : 0;
  }

 private:
  double count_ = 0, middle_ = 0, mean_ = 0, times_ = 0, squares_ = 0,
         products_ = 0;
};

class Usual {
 public:
  static constexpr double enough = 8;

  void add(double at, double amount, double share) {
    amounts_.add(at, amount);
    shares_.add(at, share);
  }

  // -1, 0 or 1; 0 where too little came before.
  int side_of(double amount, double share) const {
    if (amounts_.count() < enough) return 0;
    const bool by_share = std::isfinite(share) && shares_.count() >= enough &&
                          shares_.drift() < amounts_.drift();
    const double beyond =
        by_share ? share - shares_.mean() : amount - amounts_.mean();
    return (beyond > 0) - (beyond < 0);
  }

 private:
  AgainstTime amounts_, shares_;
};

}  // namespace backfill

#endif
