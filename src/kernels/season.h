// The seasonal index of one series on a regular grid: each figure is set
// against a reference, the centred moving average over a cycle or the overall
// average, and what comes out is combined at each position of the cycle.
// Macaulay, F. R. (1931). The Smoothing of Time Series. National Bureau of
// Economic Research.
#ifndef BACKFILL_SEASON_H
#define BACKFILL_SEASON_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <utility>
#include <vector>

#include "centred_average.h"
#include "moving_season.h"
#include "season_parts.h"
#include "window.h"

namespace backfill {

// Why a series has no index.
enum class SeasonFault {
  none = 0,
  too_short = 1,
  not_positive = 2,
  position_without_ratio = 3
};

class Season {
 public:
  explicit Season(SeasonRule rule) : rule_(rule), averages_(rule.cycle) {}

  // Of n figures, NaN being none; `position` is that in the cycle of each place
  // of the grid, from 0.
  SeasonFault find(const double* x, const int* position, std::size_t n) {
    const SeasonFault found = find_staying(x, position, n);
    if (found == SeasonFault::none && moves()) follow(x, position);
    return found;
  }

  // The same in two steps: an index that stays, and one that moves from it.
  SeasonFault find_staying(const double* x, const int* position,
                           std::size_t n) {
    left_out.clear(), moving.clear(), scale.clear();
    const SeasonFault found = find_of(x, position, n);
    if (found == SeasonFault::none &&
        (moves() || rule_.combine == Combine::inliers))
      find_inliers(x, position, n);
    return found;
  }
  void follow(const double* x, const int* position) {
    MovingSeason season(rule_);
    season.find(x, position, from_, to_, reference, part, left_out);
    for (std::size_t i = from_; i < to_; ++i)
      index[static_cast<std::size_t>(position[i])] = season.index[i];
    kept = season.kept();
    moving.swap(season.index), scale.swap(season.scale);
    normaliser = std::numeric_limits<double>::quiet_NaN();
    sort_parts(position);
  }
  bool moves() const { return rule_.combine == Combine::moving; }

  // The index of place i, which may lie behind all that it was found from.
  double at(std::size_t i, const int* position) const {
    return i < moving.size() ? moving[i]
                             : index[static_cast<std::size_t>(position[i])];
  }
  // The share of the parts' variation about their mean that the index has.
  double explained() const {
    Sum sum;
    for (double one : sorted) sum.add(one);
    const double mean = sum.value() / static_cast<double>(sorted.size());
    double all = 0, left = 0;
    for (std::size_t i : place) {
      const double off = part[i] - moving[i];
      all += (part[i] - mean) * (part[i] - mean), left += off * off;
    }
    return all > 0 ? std::max(0.0, 1 - left / all)
                   : std::numeric_limits<double>::quiet_NaN();
  }
  double scale_at(std::size_t i) const {
    return scale.empty() ? normaliser : scale[i];
  }

  // By place of the grid; NaN where there is none.
  std::vector<double> reference, part;
  // By position. `first` says where the parts of each start in `sorted`, which
  // has them in rising order, `place` the place of the grid that each comes
  // from.
  std::vector<double> index, sorted;
  double normaliser;  // what the index was multiplied by, or what was added
  // By place, of an index that moves, of which `index` has the last of each
  // position: the index, and its normaliser.
  std::vector<double> moving, scale;
  double kept = 1;  // see FadingLevels
  std::vector<std::size_t> first, place;
  std::size_t bridged =
      0;  // missing figures that the centred average was bridged over
  // The places whose figures were bridged as they stand apart.
  std::vector<std::size_t> left_out;

  const SeasonRule& rule() const { return rule_; }
  std::size_t span() const { return to_ - from_; }
  std::size_t count(std::size_t p) const { return first[p + 1] - first[p]; }

 private:
  // Without the figures whose parts stand apart, as they pull the averages of
  // their neighbours, too: of those within half a cycle the furthest goes
  // first, and all are judged anew by the averages without it. More than a
  // tenth are no outliers.
  void find_inliers(const double* x, const int* position, std::size_t n) {
    const std::size_t most = sorted.size() / 10;
    std::vector<std::size_t> odd;
    for (int round = 0; round < 8; ++round) {
      std::vector<std::size_t> next = furthest_apart(odd);
      if (next == odd) break;
      odd = std::move(next);
      if (odd.size() > most || !find_without(odd, x, position, n)) {
        odd.clear();
        break;
      }
      for (std::size_t i : odd)
        part[i] = rule_.ratio ? x[i] / reference[i] : x[i] - reference[i];
      sort_parts(position);
    }
    if (odd.empty() || !find_without(odd, x, position, n)) {
      find_of(x, position, n);
      return;
    }
    left_out = std::move(odd);
    // They are not missing.
    if (!rule_.overall) bridged -= left_out.size();
  }

  // `known`, and of the other places that stand apart the furthest within half
  // a cycle. None comes back: the rule may waver from round to round.
  std::vector<std::size_t> furthest_apart(
      const std::vector<std::size_t>& known) const {
    std::vector<std::pair<std::size_t, double>> odd;
    each_odd_part(*this, [&](std::size_t i, double distance) {
      odd.emplace_back(i, distance);
    });
    std::sort(odd.begin(), odd.end());
    std::vector<std::size_t> out = known;
    std::size_t from = 0;
    for (std::size_t k = 0; k < odd.size(); ++k) {
      const std::size_t half = rule_.cycle / 2;
      while (odd[from].first + half < odd[k].first) ++from;
      bool furthest = true;
      for (std::size_t near = from;
           near < odd.size() && odd[near].first <= odd[k].first + half; ++near)
        furthest = furthest && odd[near].second <= odd[k].second;
      if (furthest) out.push_back(odd[k].first);
    }
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
  }

  bool find_without(const std::vector<std::size_t>& odd, const double* x,
                    const int* position, std::size_t n) {
    inliers_.assign(x, x + n);
    for (std::size_t i : odd)
      inliers_[i] = std::numeric_limits<double>::quiet_NaN();
    return find_of(inliers_.data(), position, n) == SeasonFault::none;
  }

  SeasonFault find_of(const double* x, const int* position, std::size_t n) {
    reference.assign(n, std::numeric_limits<double>::quiet_NaN());
    part = reference;
    from_ = 0, to_ = n, bridged = 0;
    while (from_ < to_ && std::isnan(x[from_])) ++from_;
    while (to_ > from_ && std::isnan(x[to_ - 1])) --to_;
    if (to_ - from_ < 2 * rule_.cycle) return SeasonFault::too_short;
    if (rule_.ratio && std::any_of(x + from_, x + to_,
                                   [](double value) { return value <= 0; })) {
      return SeasonFault::not_positive;
    }
    const bool refers =
        rule_.overall ? refer_to_overall(x, position)
                      : averages_.find(x + from_, position + from_, to_ - from_,
                                       reference.data() + from_);
    bridged = rule_.overall ? 0 : averages_.bridged;
    if (!refers) {
      return SeasonFault::position_without_ratio;
    }
    for (std::size_t i = from_; i < to_; ++i)
      part[i] = rule_.ratio ? x[i] / reference[i] : x[i] - reference[i];
    sort_parts(position);
    return combine_parts() ? SeasonFault::none
                           : SeasonFault::position_without_ratio;
  }

  // The average of the averages at each position, so that a cycle that is not
  // full does not weigh on some of them.
  bool refer_to_overall(const double* x, const int* position) {
    std::vector<PartSum> at(rule_.cycle);
    for (std::size_t i = from_; i < to_; ++i)
      at[static_cast<std::size_t>(position[i])].add(x[i]);
    PartSum all;
    for (const PartSum& one : at) all.add(one.mean());
    std::fill(reference.begin() + static_cast<std::ptrdiff_t>(from_),
              reference.begin() + static_cast<std::ptrdiff_t>(to_), all.mean());
    return all.count == static_cast<std::int64_t>(rule_.cycle);
  }

  void sort_parts(const int* position) {
    first.assign(rule_.cycle + 1, 0);
    for (std::size_t i = from_; i < to_; ++i) {
      if (!std::isnan(part[i]))
        ++first[static_cast<std::size_t>(position[i]) + 1];
    }
    for (std::size_t p = 0; p < rule_.cycle; ++p) first[p + 1] += first[p];
    std::vector<std::size_t> next(first.begin(), first.end() - 1);
    place.resize(first[rule_.cycle]);
    for (std::size_t i = from_; i < to_; ++i) {
      if (!std::isnan(part[i]))
        place[next[static_cast<std::size_t>(position[i])]++] = i;
    }
    for (std::size_t p = 0; p < rule_.cycle; ++p) {
      const auto at = place.begin();
      std::sort(
          at + static_cast<std::ptrdiff_t>(first[p]),
          at + static_cast<std::ptrdiff_t>(first[p + 1]),
          [&](std::size_t a, std::size_t b) { return part[a] < part[b]; });
    }
    sorted.resize(place.size());
    for (std::size_t i = 0; i < place.size(); ++i) sorted[i] = part[place[i]];
  }

  bool combine_parts() {
    index.resize(rule_.cycle);
    Sum sum;
    for (std::size_t p = 0; p < rule_.cycle; ++p) {
      if (count(p) == 0) return false;
      index[p] = combined(sorted.data() + first[p],
                          sorted.data() + first[p + 1], rule_.combine);
      sum.add(index[p]);
    }
    normaliser = rule_.ratio ? 1 : 0;
    if (rule_.normalise) {
      const double mean = sum.value() / static_cast<double>(rule_.cycle);
      for (double& one : index) one = rule_.ratio ? one / mean : one - mean;
      normaliser = rule_.ratio ? 1 / mean : -mean;
    }
    return true;
  }

  SeasonRule rule_;
  std::size_t from_ = 0,
              to_ = 0;  // the places from the first figure to behind the last
  CentredAverage averages_;
  std::vector<double> inliers_;
};

}  // namespace backfill

#endif
