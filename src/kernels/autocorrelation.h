// Correlations of series with themselves and with each other some places apart,
// over the pairs that are there.
#ifndef BACKFILL_AUTOCORRELATION_H
#define BACKFILL_AUTOCORRELATION_H

#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "lag_products.h"

namespace backfill {

// Figures about their mean, with 0 for those that are missing (NaN), and which
// of them are there.
struct Centred {
  std::vector<double> off, there;
  std::size_t count = 0;

  Centred(const double* x, std::size_t n) : off(n), there(n) {
    double pivot = 0;
    Sum sum;
    for (std::size_t i = 0; i < n; ++i) {
      if (std::isnan(x[i])) continue;
      if (count == 0) pivot = x[i];
      sum.add(x[i] - pivot);
      ++count;
    }
    const double mean =
        count > 0 ? sum.value() / static_cast<double>(count) : 0;
    for (std::size_t i = 0; i < n; ++i) {
      if (std::isnan(x[i])) continue;
      off[i] = (x[i] - pivot) - mean;
      there[i] = 1;
    }
  }
  bool whole() const { return count == off.size(); }
  double squares() const {
    Sum sum;
    for (double x : off) sum.add(x * x);
    return sum.value();
  }
};

// For lags from 0 to `most`: the sum of the products of pairs, and their
// number.
struct LagPairs {
  std::vector<double> products, pairs;

  LagPairs(const Centred& a, const Centred& b, std::size_t most)
      : products(most + 1), pairs(most + 1) {
    const std::size_t n = a.off.size();
    lag_products(a.off.data(), b.off.data(), n, most, products.data());
    if (a.whole() && b.whole()) {
      for (std::size_t k = 0; k <= most; ++k)
        pairs[k] = static_cast<double>(n - k);
      return;
    }
    lag_products(a.there.data(), b.there.data(), n, most, pairs.data());
    for (double& one : pairs) one = std::round(one);
  }
  // The mean product, as if a pair that only the ends lack had been 0: Box, G.
  // E. P. and Jenkins, G. M. (1976). Time Series Analysis, rev. ed.,
  // section 2.1.5. Holden-Day.
  double covariance(std::size_t k) const {
    return pairs[k] > 0 ? products[k] / (pairs[k] + static_cast<double>(k))
                        : std::numeric_limits<double>::quiet_NaN();
  }
};

// Autocorrelations at lags 0 to `most`; NaN where the figures do not vary. Of
// few pairs whose figures happen to lie far out one can come out beyond 1,
// which means nothing: NaN, too.
inline std::vector<double> own_correlations(const Centred& x,
                                            const LagPairs& found,
                                            std::size_t most) {
  const double variance = x.squares() / static_cast<double>(x.count);
  std::vector<double> r(most + 1, 1.0);
  for (std::size_t k = 1; k <= most; ++k) {
    r[k] = variance > 0 ? found.covariance(k) / variance
                        : std::numeric_limits<double>::quiet_NaN();
    if (std::fabs(r[k]) > 1) r[k] = std::numeric_limits<double>::quiet_NaN();
  }
  return r;
}

// For lags from 0 to `most`: the correlation of `a` with `b` so many places
// later, each about the means and with the spreads of the pairs that are there,
// so that it lies within 1; NaN where these do not vary.
struct PairCorrelations {
  std::vector<double> coefficient, pairs;

  PairCorrelations(const Centred& a, const Centred& b, std::size_t most)
      : coefficient(most + 1), pairs(most + 1) {
    const std::size_t n = a.off.size();
    const auto sums = [&](const std::vector<double>& x,
                          const std::vector<double>& y) {
      std::vector<double> out(most + 1);
      lag_products(x.data(), y.data(), n, most, out.data());
      return out;
    };
    const auto squared = [](std::vector<double> x) {
      for (double& one : x) one *= one;
      return x;
    };
    const std::vector<double> both = sums(a.off, b.off),
                              of_a = sums(a.off, b.there),
                              of_b = sums(a.there, b.off),
                              squares_a = sums(squared(a.off), b.there),
                              squares_b = sums(a.there, squared(b.off));
    pairs = sums(a.there, b.there);
    const double least = 1e-12;
    for (std::size_t k = 0; k <= most; ++k) {
      const double m = pairs[k] = std::round(pairs[k]);
      coefficient[k] = std::numeric_limits<double>::quiet_NaN();
      if (m < 2) continue;
      const double spread_a = squares_a[k] - of_a[k] * of_a[k] / m,
                   spread_b = squares_b[k] - of_b[k] * of_b[k] / m;
      // What rounding leaves of a spread that is none.
      if (!(spread_a > least * a.squares() / n) ||
          !(spread_b > least * b.squares() / n))
        continue;
      const double r =
          (both[k] - of_a[k] * of_b[k] / m) / std::sqrt(spread_a * spread_b);
      coefficient[k] = std::fmax(-1.0, std::fmin(1.0, r));
    }
  }
};

// Partial autocorrelations at lags 1 to `most` of the autocorrelations r at
// lags 0 to `most`: Durbin, J. (1960). The fitting of time-series models.
// Review of the International Statistical Institute 28, 233-244. Those of a
// series with gaps need not belong to any process; from the first one that
// would lie beyond 1 on there are none.
inline std::vector<double> partial_autocorrelations(
    const std::vector<double>& r) {
  const std::size_t most = r.size() - 1;
  std::vector<double> out(most, std::numeric_limits<double>::quiet_NaN()),
      phi(most + 1), before(most + 1);
  double variance = 1;
  for (std::size_t k = 1; k <= most; ++k) {
    double sum = r[k];
    for (std::size_t j = 1; j < k; ++j) sum -= before[j] * r[k - j];
    const double own = sum / variance;
    if (!(std::fabs(own) <= 1) || !(variance > 0)) break;
    phi[k] = own;
    for (std::size_t j = 1; j < k; ++j)
      phi[j] = before[j] - own * before[k - j];
    variance *= 1 - own * own;
    out[k - 1] = own;
    before = phi;
  }
  return out;
}

}  // namespace backfill

#endif
