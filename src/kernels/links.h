// How the changes of candidates go with those of a target now or later.
#ifndef BACKFILL_LINKS_H
#define BACKFILL_LINKS_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "autocorrelation.h"
#include "pairs.h"

namespace backfill {

// Each figure less the one `horizon` places before; NaN where one is missing.
// Over no places it is the figure itself.
inline std::vector<double> changes_over(const double* x, std::size_t n,
                                        std::size_t horizon) {
  if (horizon == 0) return std::vector<double>(x, x + n);
  std::vector<double> out(n, std::numeric_limits<double>::quiet_NaN());
  for (std::size_t i = horizon; i < n; ++i) out[i] = x[i] - x[i - horizon];
  return out;
}

// The autocorrelations of x at lags 1 to `most`, from its first figure to its
// last.
inline std::vector<double> own_memory(const std::vector<double>& x,
                                      std::size_t most) {
  const auto there = [](double v) { return !std::isnan(v); };
  const auto from = std::find_if(x.begin(), x.end(), there);
  const auto to = std::find_if(x.rbegin(), x.rend(), there).base();
  const std::size_t n = from < to ? static_cast<std::size_t>(to - from) : 0;
  std::vector<double> out(most, std::numeric_limits<double>::quiet_NaN());
  if (n < 2) return out;
  const Centred centred(&*from, n);
  const std::size_t here = std::min(most, n - 1);
  const std::vector<double> r =
      own_correlations(centred, LagPairs(centred, centred, here), here);
  std::copy(r.begin() + 1, r.end(), out.begin());
  return out;
}

// What is found of a candidate: the rows in common, how many different figures
// it has there, how many independent rows they are worth, and the correlation,
// of all rows and of those of both halves.
struct Link {
  double n = 0, worth = 0;
  std::size_t distinct = 0;
  double coefficient = std::numeric_limits<double>::quiet_NaN(),
         first_half = coefficient, later_half = coefficient;
};

class LinkFinder {
 public:
  // The target's changes lie `ahead` places behind those of the candidates.
  LinkFinder(const double* target, std::size_t n, std::size_t horizon,
             std::size_t ahead)
      : horizon_(horizon), later_(changes_over(target, n, horizon)) {
    const std::size_t moved = std::min(ahead, n);
    std::rotate(later_.begin(),
                later_.begin() + static_cast<std::ptrdiff_t>(moved),
                later_.end());
    std::fill(later_.end() - static_cast<std::ptrdiff_t>(moved), later_.end(),
              std::numeric_limits<double>::quiet_NaN());
    memory_ = own_memory(later_, std::max(horizon, n / 5));
    const std::size_t middle = middle_of(later_);
    parts_ = {Part(later_, 0, n), Part(later_, 0, middle),
              Part(later_, middle, n)};
  }

  Link with(const double* candidate) const {
    const std::size_t n = later_.size();
    std::vector<double> x = changes_over(candidate, n, horizon_);
    for (std::size_t i = 0; i < n; ++i)
      if (std::isnan(later_[i])) x[i] = later_[i];
    Link found;
    found.n = parts_[0].with(x, found.coefficient);
    parts_[1].with(x, found.first_half);
    parts_[2].with(x, found.later_half);
    found.distinct = different(x);
    const std::size_t lags =
        std::max(horizon_, static_cast<std::size_t>(found.n / 5));
    const std::vector<double> own = own_memory(x, lags);
    found.worth = pairs_worth(found.n, memory_.data(), own.data(),
                              std::min(lags, memory_.size()),
                              static_cast<double>(horizon_));
    return found;
  }

 private:
  // A stretch of the target's changes, with which the same of a candidate is
  // correlated.
  struct Part {
    std::size_t from, size;
    PairColumn own;

    Part(const std::vector<double>& x, std::size_t start, std::size_t end)
        : from(start), size(end - start), own(x.data() + start, end - start) {}

    // The number of rows in common.
    double with(const std::vector<double>& x, double& coefficient) const {
      const Together both = together(own, PairColumn(x.data() + from, size));
      if (both.n >= 3) coefficient = both.correlation();
      return both.n;
    }
  };

  std::size_t horizon_;
  std::vector<double> later_, memory_;
  std::vector<Part> parts_;  // all rows, and those of both halves

  // The place behind the middle one of the figures that are there.
  static std::size_t middle_of(const std::vector<double>& x) {
    std::vector<std::size_t> known;
    for (std::size_t i = 0; i < x.size(); ++i)
      if (!std::isnan(x[i])) known.push_back(i);
    return known.empty() ? 0 : known[(known.size() - 1) / 2] + 1;
  }

  static std::size_t different(const std::vector<double>& x) {
    std::vector<double> known;
    for (double one : x)
      if (!std::isnan(one)) known.push_back(one);
    std::sort(known.begin(), known.end());
    return static_cast<std::size_t>(std::unique(known.begin(), known.end()) -
                                    known.begin());
  }
};

}  // namespace backfill

#endif
