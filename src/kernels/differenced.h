// Differences over a period and a cycle, which have neither trend nor season,
// and how their news hang together: a moving average with a part for either.
#ifndef BACKFILL_DIFFERENCED_H
#define BACKFILL_DIFFERENCED_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

#include "basis.h"

namespace backfill {

// How far trend and season keep to their place: both wander freely at 0, and
// are a line and a fixed season at 1.
struct Keeping {
  double trend, season;

  double covariance(std::size_t lag, std::size_t cycle) const {
    const double t = 1 + trend * trend, s = 1 + season * season;
    if (lag == 0) return t * s;
    if (lag == 1) return -trend * s;
    if (lag == cycle) return -season * t;
    if (lag + 1 == cycle || lag == cycle + 1) return trend * season;
    return 0;
  }
};

inline const std::vector<Keeping>& keepings() {
  static const std::vector<Keeping> all = [] {
    std::vector<Keeping> out;
    for (double trend : {-0.5, -0.2, 0.0, 0.2, 0.4, 0.55, 0.7, 0.8, 0.9, 0.97})
      for (double season : {0.0, 0.3, 0.5, 0.7, 0.85, 0.95, 0.99})
        out.push_back({trend, season});
    return out;
  }();
  return all;
}

// Of figures in order of their places, without two at one: those of which the
// three others are there, each less these.
inline std::vector<std::size_t> fully_differenced(
    const std::vector<std::size_t>& place, std::size_t cycle) {
  std::vector<std::size_t> at;
  for (const std::size_t one : place) {
    const auto there = [&](std::size_t back) {
      return one >= back &&
             std::binary_search(place.begin(), place.end(), one - back);
    };
    if (there(1) && there(cycle) && there(cycle + 1)) at.push_back(one);
  }
  return at;
}

// `of` gives the figure at a place.
template <typename Of>
Column differenced(const std::vector<std::size_t>& at, std::size_t cycle,
                   Of of) {
  Column out;
  out.reserve(at.size());
  for (const std::size_t one : at)
    out.push_back(of(one) - of(one - 1) - of(one - cycle) +
                  of(one - cycle - 1));
  return out;
}

// Makes the columns those of independent errors of one size; gives the sum of
// the logarithms of their deviations. The covariances reach no further than a
// cycle and one, so that Cholesky's factor is a band.
inline double make_independent(std::vector<Column>* columns,
                               const std::vector<std::size_t>& at,
                               std::size_t cycle, const Keeping& keeping) {
  const std::size_t band = cycle + 2;
  std::vector<double> factor(at.size() * band, 0);
  std::vector<std::size_t> first(at.size());
  const auto part = [&](std::size_t i, std::size_t j) -> double& {
    return factor[i * band + (j + band - 1 - i)];
  };
  double logs = 0;
  for (std::size_t i = 0, low = 0; i < at.size(); ++i) {
    while (at[i] - at[low] > cycle + 1) ++low;
    first[i] = low;
    for (std::size_t j = low; j <= i; ++j) {
      double left = keeping.covariance(at[i] - at[j], cycle);
      for (std::size_t k = std::max(low, first[j]); k < j; ++k)
        left -= part(i, k) * part(j, k);
      part(i, j) = j < i ? left / part(j, j) : std::sqrt(left);
    }
    logs += std::log(part(i, i));
    for (Column& one : *columns) {
      for (std::size_t k = low; k < i; ++k) one[i] -= part(i, k) * one[k];
      one[i] /= part(i, i);
    }
  }
  return logs;
}

}  // namespace backfill

#endif
