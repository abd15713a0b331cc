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

  // Of the parts of n places, NaN being none. Those that lie further from the
  // others around them than the largest of all would in 1 of 20 series, in
  // robust standard deviations, go, the furthest of each position first.
  void find(const std::vector<double>& part, const int* position,
            std::size_t cycle) {
    gather(part, position, cycle);
    left_out.clear();
    for (int round = 0;; ++round) {
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
    double without;  // how far off the mean of the others, in shares of the
                     // position's mean
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
    const double stays = log_likelihood(1);
    double best = stays + least;
    for (double share : shares) {
      const double here = log_likelihood(share);
      if (here > best) best = here, kept = share;
    }
  }

  // Of all positions, each with a level of its own and all with one noise: the
  // errors one cycle ahead. Parts are taken as shares of their position's mean,
  // as ratios vary with their size.
  double log_likelihood(double share) const {
    const double moves = (1 - share) * (1 - share) / share;
    double squares = 0, logs = 0, spreads = 1, count = 0;
    for (const std::vector<Part>& own : at_) {
      const double size = size_of(own);
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
        squares += missed * missed / spread, spreads *= spread, ++count;
        // None is below 1: a logarithm for many at once.
        if (spreads > 1e200) logs += std::log(spreads), spreads = 1;
        here += doubt / spread * missed;
        doubt /= spread;
      }
    }
    // Without two errors, or without any at all, nothing moves.
    if (count < 2 || !(squares > 1e-20 * count)) return share == 1 ? 0 : -1e300;
    logs += std::log(spreads);
    return -(count * std::log(squares / count) + logs) / 2;
  }

  double size_of(const std::vector<Part>& own) const {
    if (!by_size_) return 1;
    double sum = 0, count = 0;
    for (const Part& one : own)
      if (!std::isnan(one.value)) sum += one.value, ++count;
    return count > 0 && sum > 0 ? sum / count : 1;
  }

  void smooth() {
    std::vector<FadingMean> later;
    for (std::vector<Part>& own : at_) {
      const double size = size_of(own);
      later.assign(own.size(), {});
      for (std::size_t k = own.size(); k-- > 1;) {
        later[k - 1] = later[k];
        later[k - 1].take(own[k].value);
        later[k - 1].fade(left_after(own[k].cycles));
      }
      FadingMean earlier;
      for (std::size_t k = 0; k < own.size(); ++k) {
        if (k > 0) earlier.fade(left_after(own[k].cycles));
        const double others = earlier.with(later[k]).mean;
        own[k].without = (own[k].value - others) / size;
        earlier.take(own[k].value);
        level[own[k].place] = earlier.with(later[k]).mean;
      }
    }
  }

  double left_after(double cycles) const {
    return cycles == 1 ? kept : std::pow(kept, cycles);
  }

  bool leave_out() {
    std::vector<double> off;
    for (const std::vector<Part>& own : at_)
      for (const Part& one : own)
        if (!std::isnan(one.without)) off.push_back(std::fabs(one.without));
    const double count = static_cast<double>(off.size());
    if (off.size() < 3 * at_.size()) return false;
    constexpr double robust = 1.05 * 1.4826;
    const double limit =
        robust * middle_of(&off) * limit_of_largest(count, count);
    bool some = false;
    for (std::vector<Part>& own : at_) {
      Part* furthest = nullptr;
      for (Part& one : own) {
        if (std::fabs(one.without) > limit &&
            (furthest == nullptr ||
             std::fabs(one.without) > std::fabs(furthest->without)))
          furthest = &one;
      }
      // More than a tenth are no outliers.
      if (furthest == nullptr || !(limit > 0) ||
          10 * (left_out.size() + 1) > off.size() + left_out.size())
        continue;
      furthest->value = std::numeric_limits<double>::quiet_NaN();
      left_out.push_back(furthest->place);
      some = true;
    }
    return some;
  }

  bool by_size_;
  std::vector<std::vector<Part>> at_;  // by position
};

}  // namespace backfill

#endif
