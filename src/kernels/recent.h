// A level, a damped slope and a season that follow the recent figures, by
// exponential smoothing: Holt (1957), Winters (1960), Gardner and McKenzie
// (1985). How fast each follows is what would have missed least one period
// ahead; all of it by what was known at each place alone.
#ifndef BACKFILL_RECENT_H
#define BACKFILL_RECENT_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "season.h"

namespace backfill {

// The shares of an error by which level, slope and season follow it, and the
// share of the slope that is left a period later (0: there is no slope).
struct Follow {
  double level, slope, season, damping;
};

inline const std::vector<Follow>& ways_to_follow() {
  static const std::vector<Follow> ways = [] {
    std::vector<Follow> out;
    for (double level : {0.01, 0.05, 0.1, 0.2, 0.35, 0.55, 0.8}) {
      for (double season : {0.0, 0.1, 0.25, 0.5}) {
        out.push_back({level, 0, season, 0});
        for (double damping : {0.8, 0.95, 1.0}) {
          for (double slope : {0.0, 0.03, 0.1, 0.3})
            out.push_back({level, slope * level, season, damping});
        }
      }
    }
    return out;
  }();
  return ways;
}

// What is known of a series at a place: it starts from the index of its first
// two cycles, and follows each figure from there. Where the season is a ratio
// it is the logarithms that are followed, and the slope is a growth.
class Recent {
 public:
  Recent(const Follow& way, const std::vector<double>& index, bool ratio)
      : way_(way), index_(index), seen_(index.size()), ratio_(ratio) {
    if (ratio)
      for (double& one : index_) one = std::log(one);
  }

  // The level so many periods on, and the season there.
  double level_ahead(double periods) const { return back(ahead(periods)); }
  double index(int position) const {
    return back(index_[static_cast<std::size_t>(position)]);
  }

  // One period on; gives by how much it was missed.
  double follow(double x, int position) {
    const bool flat = way_.damping == 0;
    slope_ *= way_.damping;
    level_ += slope_;
    if (std::isnan(x)) return 0;
    const std::size_t p = static_cast<std::size_t>(position);
    const double missed = (ratio_ ? std::log(x) : x) - index_[p] - level_;
    // The first figures weigh as in a mean, or a line of least squares, that
    // each of them is added to.
    const double n = ++count_;
    const double gain =
        std::max(way_.level, flat ? 1 / n : (4 * n - 2) / (n * (n + 1)));
    level_ += gain * missed;
    if (!flat && n > 1)
      slope_ += std::max(way_.slope, 6 / (n * (n + 1))) * missed;
    const double share = std::max(way_.season, 1 / ++seen_[p]);
    // The index of the first cycles was made of all of their figures.
    if (seen_[p] > 2) index_[p] += share * (1 - gain) * missed;
    return missed;
  }

 private:
  double ahead(double periods) const {
    const double d = way_.damping;
    const double times =
        d == 1 ? periods : d * (1 - std::pow(d, periods)) / (1 - d);
    return level_ + slope_ * times;
  }
  double back(double x) const { return ratio_ ? std::exp(x) : x; }

  Follow way_;
  std::vector<double> index_;
  std::vector<double> seen_;
  bool ratio_;
  double level_ = 0, slope_ = 0, count_ = 0;
};

// Which way missed least up to each place of a series.
class RecentWays {
 public:
  explicit RecentWays(SeasonRule rule) : rule_(rule), season_(rule) {}

  // As the series is known at n; false where its figures give no season by
  // then.
  bool follow(const double* x, const int* position, std::size_t n,
              Recent& out) {
    if ((x != of_ || n > reach_) && !try_all(x, position, n)) return false;
    // An index of later cycles was not known.
    if (n < first_) return false;
    const Follow& way = ways_to_follow()[best_[n]];
    out = Recent(way, season_.index, rule_.ratio);
    for (std::size_t i = start_; i < n; ++i) out.follow(x[i], position[i]);
    return true;
  }

 private:
  bool try_all(const double* x, const int* position, std::size_t n) {
    of_ = nullptr;
    start_ = 0;
    while (start_ < n && std::isnan(x[start_])) ++start_;
    first_ = start_ + 2 * rule_.cycle;
    // Where the first two cycles have holes, as many more periods as it takes.
    while (first_ <= n &&
           season_.find(x, position, first_) != SeasonFault::none)
      ++first_;
    if (first_ > n) return false;
    best_.assign(n + 1, 0);
    std::vector<double> least(n + 1, std::numeric_limits<double>::infinity());
    const std::vector<Follow>& ways = ways_to_follow();
    for (std::size_t w = 0; w < ways.size(); ++w) {
      Recent way(ways[w], season_.index, rule_.ratio);
      double squares = 0;
      for (std::size_t i = start_; i < n; ++i) {
        const double missed = way.follow(x[i], position[i]);
        if (i >= first_) squares += missed * missed;
        if (squares < least[i + 1]) least[i + 1] = squares, best_[i + 1] = w;
      }
    }
    of_ = x, reach_ = n;
    return true;
  }

  SeasonRule rule_;
  Season season_;
  const double* of_ = nullptr;
  std::size_t reach_ = 0, start_ = 0, first_ = 0;
  std::vector<std::size_t> best_;
};

}  // namespace backfill

#endif
