// A level at each position of a cycle that wanders, seen through noise: at each
// place the mean of the parts at its position, whose weights fall by a share
// with each cycle between. How much is left of them is found from the parts.
// Muth, J. F. (1960). Optimal properties of
// exponentially weighted forecasts. Journal of the American Statistical
// Association 55, 299-306.
#ifndef BACKFILL_FADING_LEVELS_H
#define BACKFILL_FADING_LEVELS_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "season_parts.h"

namespace backfill {

// A mean whose weights fade, but never to nothing, as one figure far off is
// still the best there is.
struct FadingMean {
  double mean = 0, weight = 0;

  void fade(double left) {
    if (weight > 0) weight = std::max(weight * left, 1e-250);
  }
  void take(double x) {
    if (std::isnan(x)) return;
    weight += 1;
    mean += (x - mean) / weight;
  }
  FadingMean with(const FadingMean& other) const {
    FadingMean out;
    out.weight = weight + other.weight;
    out.mean = out.weight > 0
                   ? (mean * weight + other.mean * other.weight) / out.weight
                   : std::numeric_limits<double>::quiet_NaN();
    return out;
  }
};

class FadingLevels {
 public:
  // `by_size` says that parts are ratios, which vary with their size.
  explicit FadingLevels(bool by_size) : by_size_(by_size) {}

  // The share of its weight that a part keeps from one cycle to the next; 1 is
  // a season that stays.
  double kept = 1;
  std::vector<double> level;          // by place
  std::vector<std::size_t> left_out;  // places whose parts stand apart

  // Of the parts of n places, NaN being none. Those that stand apart from the
  // others around them go, the furthest of each position first. What is no more
  // than a `trifle` is due to rounding.
  void find(const std::vector<double>& part, const int* position,
            std::size_t cycle, double trifle) {
    trifle_ = trifle;
    gather(part, position, cycle);
    left_out.clear();
    for (int round = 0;; ++round) {
      measure();
      choose();
      smooth();
      if (round == most_rounds || !leave_out()) break;
    }
  }

 private:
  static constexpr int most_rounds = 4;

  struct Part {
    std::size_t place;
    double value;    // NaN where there is none
    double cycles;   // since the one before
    double without;  // how far off the mean of the others, for how sure that
                     // is, in shares of the position's mean
  };

  void gather(const std::vector<double>& part, const int* position,
              std::size_t cycle) {
    level.assign(part.size(), std::numeric_limits<double>::quiet_NaN());
    at_.assign(cycle, {});
    for (std::size_t i = 0; i < part.size(); ++i) {
      std::vector<Part>& own = at_[static_cast<std::size_t>(position[i])];
      const double since =
          own.empty() ? 0 : static_cast<double>(i - own.back().place);
      own.push_back({i, part[i], since / static_cast<double>(cycle), 0});
    }
  }

  // The limit is a likelihood ratio's at 5%, half of whose chances lie at a
  // season that stays: Self, S. G. and Liang, K. (1987). Asymptotic properties
  // of maximum likelihood estimators under nonstandard conditions. Journal of
  // the American Statistical Association 82, 605-610.
  void choose() {
    constexpr double shares[] = {0.95, 0.9, 0.85, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3};
    constexpr double least = 2.706 / 2;
    kept = 1;
    if (still_) return;
    const double stays = log_likelihood(1);
    double best = stays;
    for (double share : shares) {
      const double here = log_likelihood(share);
      if (here > best) best = here, kept = share;
    }
    // Neighbours that go together count as fewer.
    if (kept < 1 && !((best - stays) * worth() > least)) kept = 1;
  }

  // Calls `use(place, error, spread)` for the errors one cycle ahead of levels
  // that wander, one for each position, in units of one noise.
  template <typename Use>
  void each_error(double share, Use use) const {
    const double moves = (1 - share) * (1 - share) / share;
    for (std::size_t p = 0; p < at_.size(); ++p) {
      const std::vector<Part>& own = at_[p];
      const double size = noise_[p];
      double here = 0, doubt = 0;
      bool begun = false;
      for (const Part& one : own) {
        if (begun) doubt += moves * one.cycles;
        if (std::isnan(one.value)) continue;
        const double x = one.value / size;
        if (!begun) {
          begun = true, here = x, doubt = 1;
          continue;
        }
        const double missed = x - here, spread = doubt + 1;
        use(one.place, missed, spread);
        here += doubt / spread * missed;
        doubt /= spread;
      }
    }
  }

  double log_likelihood(double share) const {
    double squares = 0, logs = 0, spreads = 1, count = 0;
    each_error(share, [&](std::size_t, double missed, double spread) {
      squares += missed * missed / spread, spreads *= spread, ++count;
      // None is below 1: a logarithm for many at once.
      if (spreads > 1e200) logs += std::log(spreads), spreads = 1;
    });
    // Without two errors nothing moves.
    if (count < 2 || !(squares > 0)) return share == 1 ? 0 : -1e300;
    logs += std::log(spreads);
    return -(count * std::log(squares / count) + logs) / 2;
  }

  // Bartlett, M. S. (1935). Some aspects of the time-correlation problem in
  // regard to tests of significance. Journal of the Royal Statistical Society
  // 98, 536-543.
  double worth() const {
    std::vector<double> errors(level.size(),
                               std::numeric_limits<double>::quiet_NaN());
    double squares = 0, products = 0;
    each_error(kept, [&](std::size_t place, double missed, double spread) {
      errors[place] = missed / std::sqrt(spread);
      squares += missed * missed / spread;
    });
    for (std::size_t i = 1; i < errors.size(); ++i) {
      const double product = errors[i - 1] * errors[i];
      if (!std::isnan(product)) products += product;
    }
    const double memory = std::max(products / squares, 0.0),
                 together = memory * memory;
    return std::max((1 - together) / (1 + together), 0.3);
  }

  // In what the parts of each position are counted: the mean of ratios, as they
  // vary with their size, and where positions vary unlike each other, and there
  // are four cycles to see that, how far off their means they lie.
  void measure() {
    constexpr std::size_t enough = 4;
    size_.assign(at_.size(), 1);
    std::size_t parts = 0;
    still_ = true;
    std::vector<std::vector<double>> off(at_.size());
    std::vector<double> away(at_.size());
    for (std::size_t p = 0; p < at_.size(); ++p) {
      double sum = 0, count = 0;
      for (const Part& one : at_[p])
        if (!std::isnan(one.value)) sum += one.value, ++count;
      if (by_size_ && sum > 0) size_[p] = sum / count;
      for (const Part& one : at_[p])
        if (!std::isnan(one.value))
          off[p].push_back(std::fabs(one.value - sum / count) / size_[p]);
      for (double one : off[p]) away[p] += one / count;
      still_ = still_ && !(away[p] > trifle_);
      parts += off[p].size();
    }
    noise_ = size_;
    if (parts < enough * at_.size() || !spreads_differ(off)) return;
    for (std::size_t p = 0; p < at_.size(); ++p)
      if (away[p] > 0) noise_[p] *= away[p];
  }

  void smooth() {
    std::vector<FadingMean> later;
    for (std::size_t p = 0; p < at_.size(); ++p) {
      std::vector<Part>& own = at_[p];
      const double size = size_[p];
      later.assign(own.size(), {});
      for (std::size_t k = own.size(); k-- > 1;) {
        later[k - 1] = later[k];
        later[k - 1].take(own[k].value);
        later[k - 1].fade(left_after(own[k].cycles));
      }
      FadingMean earlier;
      for (std::size_t k = 0; k < own.size(); ++k) {
        if (k > 0) earlier.fade(left_after(own[k].cycles));
        // Fewer others around, as at the ends, leave more doubt.
        const FadingMean others = earlier.with(later[k]);
        own[k].without = (own[k].value - others.mean) / size *
                         std::sqrt(others.weight / (1 + others.weight));
        earlier.take(own[k].value);
        level[own[k].place] = earlier.with(later[k]).mean;
      }
    }
  }

  double left_after(double cycles) const {
    return cycles == 1 ? kept : std::pow(kept, cycles);
  }

  bool leave_out() {
    std::vector<std::vector<double>> off(at_.size());
    std::vector<std::size_t> counts(at_.size());
    std::size_t parts = 0;
    for (std::size_t p = 0; p < at_.size(); ++p) {
      for (const Part& one : at_[p])
        if (!std::isnan(one.without)) off[p].push_back(std::fabs(one.without));
      parts += counts[p] = off[p].size();
    }
    if (parts < 3 * at_.size()) return false;
    const std::vector<double> limits = limits_of_odd(off, counts);
    bool some = false;
    for (std::size_t p = 0; p < limits.size(); ++p) {
      Part* const furthest = furthest_of(at_[p]);
      if (furthest == nullptr || !(std::fabs(furthest->without) > limits[p]) ||
          !alone(*furthest, off[p]))
        continue;
      // More than a tenth are no outliers.
      if (10 * (left_out.size() + 1) > parts + left_out.size()) break;
      furthest->value = std::numeric_limits<double>::quiet_NaN();
      left_out.push_back(furthest->place);
      some = true;
    }
    return some;
  }

  static Part* furthest_of(std::vector<Part>& parts) {
    Part* furthest = nullptr;
    for (Part& one : parts)
      if (!std::isnan(one.without) &&
          (furthest == nullptr ||
           std::fabs(one.without) > std::fabs(furthest->without)))
        furthest = &one;
    return furthest;
  }

  // Of few parts an uneven spread does not show otherwise than by a part that
  // lies twice as far off as the next.
  static bool alone(const Part& furthest, const std::vector<double>& off) {
    constexpr std::size_t few = 5;
    const double far = std::fabs(furthest.without);
    return off.size() > few ||
           std::count_if(off.begin(), off.end(),
                         [&](double one) { return 2 * one > far; }) == 1;
  }

  bool by_size_, still_ = false;
  double trifle_ = 0;
  std::vector<std::vector<Part>> at_;  // by position
  std::vector<double> size_, noise_;   // see measure()
};

}  // namespace backfill

#endif
