// What flags know of earlier deviations from their baseline.
#ifndef BACKFILL_PAST_DEVIATIONS_H
#define BACKFILL_PAST_DEVIATIONS_H

#include <cmath>
#include <cstddef>
#include <limits>

#include "project.h"
#include "sorted_blocks.h"

namespace backfill {

// The deviations so far: their mean and spread, and all of them in rising order
// where quantiles are asked for.
class PastDeviations {
 public:
  explicit PastDeviations(bool sorted) : keeps_(sorted) {}

  void add(double x) {
    part_.add(x);
    if (!keeps_) return;
    sorted_.insert(x);
    robust_ = std::numeric_limits<double>::quiet_NaN();
  }
  std::size_t count() const { return static_cast<std::size_t>(part_.count); }
  double mean() const { return part_.pivot + part_.mean; }
  double spread() const { return part_.deviation(); }
  double median() const {
    const std::size_t n = sorted_.size();
    return n == 0 ? std::numeric_limits<double>::quiet_NaN()
                  : (sorted_.at((n - 1) / 2) + sorted_.at(n / 2)) / 2;
  }
  // 1.4826 times the median absolute deviation.
  double robust_spread() const {
    const std::size_t n = sorted_.size();
    if (!std::isnan(robust_) || n == 0) return robust_;
    const double middle = median();
    const std::size_t right = sorted_.below(middle);
    const double low = nearest(middle, right, (n - 1) / 2),
                 high = n % 2 == 1 ? low : nearest(middle, right, n / 2);
    return robust_ = 1.4826 * (low + high) / 2;
  }
  // Beyond which the next one lies with a probability of 1 - share (definition
  // 6 of Hyndman and Fan 1996); NaN where there are too few to say so.
  double quantile(double share) const {
    const double exact = share * static_cast<double>(sorted_.size() + 1),
                 last = static_cast<double>(sorted_.size());
    // A tenth of ten is one, whatever the rounding.
    if (exact < 1 - 1e-9 || exact > last + 1e-9)
      return std::numeric_limits<double>::quiet_NaN();
    const double rank = std::min(std::max(exact, 1.0), last);
    const std::size_t below = static_cast<std::size_t>(rank);
    const double low = sorted_.at(below - 1);
    return below == sorted_.size() ? low
                                   : low + (rank - static_cast<double>(below)) *
                                               (sorted_.at(below) - low);
  }

 private:
  // The distance from the middle of which k are no larger, where those from
  // `right` on lie at or behind it: of the distances to the left and to the
  // right, each in rising order, some of either are the k + 1 smallest.
  double nearest(double middle, std::size_t right, std::size_t k) const {
    const std::size_t n = sorted_.size();
    const auto to_left = [&](std::size_t i) {
      return middle - sorted_.at(right - 1 - i);
    };
    const auto to_right = [&](std::size_t i) {
      return sorted_.at(right + i) - middle;
    };
    std::size_t low = k + 1 > n - right ? k + 1 - (n - right) : 0,
                high = std::min(k + 1, right);
    while (low < high) {
      const std::size_t left =
          low +
          (high - low) / 2;  // taken from the left, and the rest from the right
      if (to_left(left) < to_right(k - left))
        low = left + 1;
      else
        high = left;
    }
    double out = 0;
    if (low > 0) out = to_left(low - 1);
    if (low <= k) out = std::max(out, to_right(k - low));
    return out;
  }

  bool keeps_;
  PartSpread part_;
  SortedBlocks sorted_;
  mutable double robust_ =
      std::numeric_limits<double>::quiet_NaN();  // found when asked for
};

}  // namespace backfill

#endif
