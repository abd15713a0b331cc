// The parts of a season at each position: how they are combined, and which of
// them stand apart.
#ifndef BACKFILL_SEASON_PARTS_H
#define BACKFILL_SEASON_PARTS_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <map>
#include <utility>
#include <vector>

#include "window.h"

namespace backfill {

// inner: the mean without the highest and the lowest; inliers: without those
// that stand apart; moving: those of the cycles around, without these.
enum class Combine { mean = 0, median = 1, inner = 2, inliers = 3, moving = 4 };

struct SeasonRule {
  std::size_t cycle;  // periods, and positions
  bool ratio;         // to the reference, else the difference from it
  bool overall;       // the reference is the overall average, else the centred
                      // moving average
  Combine combine;
  bool normalise;
};

// The mean of figures that are sorted, their median, or their mean without the
// ends.
inline double combined(const double* from, const double* to, Combine combine) {
  const std::ptrdiff_t n = to - from;
  if (n == 0) return std::numeric_limits<double>::quiet_NaN();
  if (combine == Combine::median)
    return n % 2 == 1 ? from[n / 2] : (from[n / 2 - 1] + from[n / 2]) / 2;
  if (combine == Combine::inner && n >= 3) {
    ++from;
    --to;
  }
  Sum sum;
  for (const double* x = from; x < to; ++x) sum.add(*x);
  return sum.value() / static_cast<double>(to - from);
}

// How many robust standard deviations the largest of n normal figures lies off
// in 1 of 20 cases: a quantile of Student's t whose degrees of freedom are what
// a median absolute deviation of so many figures, `behind`, is worth, by the
// expansion of Cornish and Fisher.
inline double find_limit_of_largest(double n, double behind) {
  double low = 0, high = 40;
  for (int i = 0; i < 60; ++i) {
    const double middle = (low + high) / 2;
    (std::erfc(middle / std::sqrt(2.0)) > 0.05 / n ? low : high) = middle;
  }
  const double z = low, cube = z * z * z, free = std::max(1.0, behind / 2 - 1);
  return z + (cube + z) / (4 * free) +
         (5 * cube * z * z + 16 * cube + 3 * z) / (96 * free * free);
}

// It is asked again and again for as many.
inline double limit_of_largest(double n, double behind) {
  thread_local std::map<std::pair<double, double>, double> known;
  const auto at = known.try_emplace({n, behind}, 0);
  if (at.second) at.first->second = find_limit_of_largest(n, behind);
  return at.first->second;
}

inline double middle_of(std::vector<double>* x) {
  const std::ptrdiff_t half = static_cast<std::ptrdiff_t>(x->size() / 2);
  std::nth_element(x->begin(), x->begin() + half, x->end());
  return (*x)[static_cast<std::size_t>(half)];
}

// Whether some positions vary more than others, at 10%: the test of Kruskal and
// Wallis of how far off their parts lie, its quantile by the cube root of
// Wilson and Hilferty.
inline bool spreads_differ(const std::vector<std::vector<double>>& off) {
  std::vector<std::pair<double, std::size_t>> all;
  double groups = 0;
  for (std::size_t p = 0; p < off.size(); ++p) {
    for (double one : off[p]) all.emplace_back(one, p);
    groups += !off[p].empty();
  }
  if (groups < 2) return false;
  std::sort(all.begin(), all.end());
  std::vector<double> sums(off.size());
  for (std::size_t i = 0; i < all.size(); ++i)
    sums[all[i].second] += static_cast<double>(i + 1);
  const double n = static_cast<double>(all.size());
  double h = -3 * (n + 1);
  for (std::size_t p = 0; p < off.size(); ++p)
    if (!off[p].empty())
      h += 12 / (n * (n + 1)) * sums[p] * sums[p] /
           static_cast<double>(off[p].size());
  const double free = groups - 1, part = 2 / (9 * free),
               root = 1 - part + 1.282 * std::sqrt(part);
  return h > free * root * root * root;
}

// From how far off on parts stand apart at each position: further than the
// largest of all would in 1 of 20 series, in robust standard deviations:
// Iglewicz, B. and Hoaglin, D. C. (1993). How to Detect and Handle Outliers.
// ASQC. The median absolute deviation is that of all positions together or,
// where these vary unlike each other, that of its own position if it is larger.
// `off` has how far off parts lie, by position, `counts` how many there are,
// also of those that `off` leaves out. Empty where none lies so far off.
inline std::vector<double> limits_of_odd(
    std::vector<std::vector<double>>& off,
    const std::vector<std::size_t>& counts) {
  constexpr double robust = 1.05 * 1.4826;
  std::vector<double> all;
  double parts = 0;
  for (std::size_t p = 0; p < off.size(); ++p) {
    all.insert(all.end(), off[p].begin(), off[p].end());
    parts += static_cast<double>(counts[p]);
  }
  if (all.empty()) return {};
  const double furthest = *std::max_element(all.begin(), all.end());
  const double pooled = robust * middle_of(&all);
  const double least = limit_of_largest(parts, parts) * pooled;
  // No limit is below it.
  if (!(pooled > 0) || !(furthest > least)) return {};
  std::vector<double> limits(off.size(), least);
  if (!spreads_differ(off)) return limits;
  for (std::size_t p = 0; p < off.size(); ++p) {
    const double own = off[p].empty() ? 0 : robust * middle_of(&off[p]);
    if (own > pooled)
      limits[p] = own * limit_of_largest(parts, static_cast<double>(counts[p]));
  }
  return limits;
}

// Calls `use(place, distance)` for each part that stands apart from the median
// at its position (of ratios relative to that); without the one or two parts of
// each that make the median, and without positions of fewer than three parts,
// which say nothing. Of three or four parts one stands apart only where it lies
// three times as far off as the next.
template <typename Season, typename Use>
void each_odd_part(const Season& season, Use use) {
  const std::size_t positions = season.index.size();
  std::vector<std::vector<double>> off(positions);
  std::vector<std::size_t> counts(positions);
  const auto each = [&](auto see) {
    for (std::size_t p = 0; p < positions; ++p) {
      const std::size_t count = season.count(p), first = season.first[p];
      if (count < 3) continue;
      const double middle =
          combined(season.sorted.data() + first,
                   season.sorted.data() + season.first[p + 1], Combine::median);
      for (std::size_t k = 0; k < count; ++k)
        see(p, k,
            std::fabs(season.sorted[first + k] - middle) /
                (season.rule().ratio ? middle : 1));
    }
  };
  each([&](std::size_t p, std::size_t k, double distance) {
    const std::size_t count = counts[p] = season.count(p);
    if (k != count / 2 && k != (count - 1) / 2) off[p].push_back(distance);
  });
  const std::vector<double> limits = limits_of_odd(off, counts);
  if (limits.empty()) return;
  // Of so few parts an uneven spread does not show otherwise.
  const auto alone = [&](std::size_t p, double distance) {
    return season.count(p) > 4 ||
           distance > 3 * *std::min_element(off[p].begin(), off[p].end());
  };
  each([&](std::size_t p, std::size_t k, double distance) {
    if (distance > limits[p] && alone(p, distance))
      use(season.place[season.first[p] + k], distance);
  });
}

}  // namespace backfill

#endif
