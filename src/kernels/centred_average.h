// The centred moving average over a cycle, with what is missing bridged.
// Macaulay, F. R. (1931). The Smoothing of Time Series. National Bureau of
// Economic Research.
#ifndef BACKFILL_CENTRED_AVERAGE_H
#define BACKFILL_CENTRED_AVERAGE_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "window.h"

namespace backfill {

class CentredAverage {
 public:
  explicit CentredAverage(std::size_t cycle) : cycle_(cycle) {}

  std::size_t bridged = 0;  // missing figures

  // Of n figures, the first and the last of them known, into `out`. Over one
  // cycle; where that is an even number of periods, the mean of the two windows
  // that lie around the period. A window of which more than half is missing
  // gives none. False where a position has no figure at all.
  bool find(const double* x, const int* position, std::size_t n, double* out) {
    bridged = 0;
    if (!bridge(x, position, n)) return false;
    const std::ptrdiff_t half = static_cast<std::ptrdiff_t>(cycle_ / 2);
    const auto take = [&](std::ptrdiff_t later, auto use) {
      each_window<PartSum>(
          filled_.data(), n, {0, n},
          [&](std::size_t i) {
            const std::ptrdiff_t start =
                static_cast<std::ptrdiff_t>(i) - half + later;
            return Window{start, start + static_cast<std::ptrdiff_t>(cycle_)};
          },
          use);
    };
    take(0, [&](std::size_t i, const Window&, const PartSum& sum) {
      out[i] = sum.mean();
    });
    if (cycle_ % 2 == 0) {
      earlier_.assign(out, out + n);
      std::fill(out, out + n, std::numeric_limits<double>::quiet_NaN());
      take(1, [&](std::size_t i, const Window&, const PartSum& sum) {
        out[i] = (earlier_[i] + sum.mean()) / 2;
      });
    }
    if (bridged > 0) drop_bridged(x, n, half, out);
    return true;
  }

 private:
  void drop_bridged(const double* x, std::size_t n, std::ptrdiff_t half,
                    double* out) const {
    std::vector<std::size_t> known(n + 1);
    for (std::size_t i = 0; i < n; ++i)
      known[i + 1] = known[i] + (std::isnan(x[i]) ? 0 : 1);
    for (std::size_t i = 0; i < n; ++i) {
      if (std::isnan(out[i])) continue;
      const std::size_t start = i - static_cast<std::size_t>(half),
                        end = i + static_cast<std::size_t>(half) + 1;
      if (2 * (known[end] - known[start]) < end - start)
        out[i] = std::numeric_limits<double>::quiet_NaN();
    }
  }

  // Missing figures become the mean of the nearest ones at their position
  // before and after, or the one that there is.
  bool bridge(const double* x, const int* position, std::size_t n) {
    filled_.assign(x, x + n);
    if (std::none_of(filled_.begin(), filled_.end(),
                     [](double value) { return std::isnan(value); }))
      return true;
    std::vector<double> nearest(cycle_,
                                std::numeric_limits<double>::quiet_NaN());
    std::vector<double> before = filled_;
    for (std::size_t i = 0; i < filled_.size(); ++i) {
      double& near = nearest[static_cast<std::size_t>(position[i])];
      if (std::isnan(before[i]))
        before[i] = near;
      else
        near = before[i];
    }
    std::fill(nearest.begin(), nearest.end(),
              std::numeric_limits<double>::quiet_NaN());
    for (std::size_t i = filled_.size(); i-- > 0;) {
      double& near = nearest[static_cast<std::size_t>(position[i])];
      if (!std::isnan(filled_[i])) {
        near = filled_[i];
        continue;
      }
      ++bridged;
      filled_[i] = std::isnan(near)        ? before[i]
                   : std::isnan(before[i]) ? near
                                           : (before[i] + near) / 2;
      if (std::isnan(filled_[i])) return false;
    }
    return true;
  }

  std::size_t cycle_;
  std::vector<double> filled_, earlier_;
};

}  // namespace backfill

#endif
