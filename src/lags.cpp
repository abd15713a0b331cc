// Doors to correlations some periods apart. Rows come sorted by series, then by
// period number, without two alike.
#include "cycles.h"

#include <algorithm>
#include <vector>

#include "grid.h"
#include "series.h"
#include "side_by_side.h"

using namespace backfill;

// At lags 1 to `most`, a column for each series: the autocorrelation, the
// number of pairs, the sum of their products, and with `partial` the partial
// autocorrelation. `count` says how many figures there are, `reach` how many
// periods.
// [[Rcpp::export(rng = false)]]
Rcpp::List autocorrelation_cpp(Rcpp::IntegerVector series,
                               Rcpp::NumericVector number,
                               Rcpp::NumericVector value, int most,
                               bool partial) {
  const std::vector<Ends> ends = ends_of_series(series);
  const int count = static_cast<int>(ends.size());
  Rcpp::NumericMatrix coefficient(most, count), pairs(most, count),
      products(most, count), partials(most, count);
  Rcpp::NumericVector known(count), reach(count), square(count);
  double *const
      coefficient_to = coefficient.begin(),
      *const pairs_to = pairs.begin(), *const products_to = products.begin(),
      *const partials_to = partials.begin(), *const known_to = known.begin(),
      *const reach_to = reach.begin(), *const square_to = square.begin();
  const double *const numbers = number.begin(), *const values = value.begin();
  const std::size_t lags = static_cast<std::size_t>(most);
  const auto find_one = [&](std::size_t s) {
    const Grid grid(numbers + ends[s].start, values + ends[s].start,
                    ends[s].end - ends[s].start);
    const double *from = grid.x(), *to = from + grid.size();
    while (from < to && std::isnan(*from)) ++from;
    while (to > from && std::isnan(*(to - 1))) --to;
    const std::size_t n = static_cast<std::size_t>(to - from),
                      here = n == 0 ? 0 : std::min(lags, n - 1);
    const Centred centred(from, n);
    known_to[s] = static_cast<double>(centred.count);
    reach_to[s] = static_cast<double>(n);
    for (std::size_t k = 0; k < lags; ++k) {
      coefficient_to[s * lags + k] = products_to[s * lags + k] =
          partials_to[s * lags + k] = NA_REAL;
      pairs_to[s * lags + k] = 0;
    }
    square_to[s] = centred.squares();
    if (here == 0) return;
    const LagPairs found(centred, centred, here);
    const std::vector<double> r = own_correlations(centred, found, here);
    for (std::size_t k = 1; k <= here; ++k) {
      coefficient_to[s * lags + k - 1] = as_r(r[k]);
      pairs_to[s * lags + k - 1] = found.pairs[k];
      products_to[s * lags + k - 1] = found.products[k];
    }
    if (!partial || !(square_to[s] > 0)) return;
    const std::vector<double> own = partial_autocorrelations(r);
    std::transform(own.begin(), own.end(), partials_to + s * lags, as_r);
  };
  if (series.size() < 100000) {
    for (std::size_t s = 0; s < ends.size(); ++s) find_one(s);
  } else {
    side_by_side(ends.size(), find_one);
  }
  return Rcpp::List::create(
      Rcpp::_["coefficient"] = coefficient, Rcpp::_["pairs"] = pairs,
      Rcpp::_["products"] = products, Rcpp::_["partial"] = partials,
      Rcpp::_["count"] = known, Rcpp::_["reach"] = reach,
      Rcpp::_["squares"] = square);
}

// Of two series on one grid, at lags 0 to `most`: the correlation of `first`
// with `second` so many places later, about the means of the pairs, and their
// number.
// [[Rcpp::export(rng = false)]]
Rcpp::List cross_correlation_cpp(Rcpp::NumericVector first,
                                 Rcpp::NumericVector second, int most) {
  const std::size_t n = static_cast<std::size_t>(first.size());
  const Centred a(first.begin(), n), b(second.begin(), n);
  const PairCorrelations found(a, b, static_cast<std::size_t>(most));
  Rcpp::NumericVector out(most + 1),
      pairs(found.pairs.begin(), found.pairs.end());
  std::transform(found.coefficient.begin(), found.coefficient.end(),
                 out.begin(), as_r);
  return Rcpp::List::create(Rcpp::_["coefficient"] = out,
                            Rcpp::_["pairs"] = pairs);
}

// Sums of products at lags 0 to `most`, one by one or through the Fourier
// transform, which must be the same.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector lag_products_cpp(Rcpp::NumericVector x, int most,
                                     bool fourier) {
  Rcpp::NumericVector out(most + 1);
  const std::size_t n = static_cast<std::size_t>(x.size());
  (fourier ? lag_products_fourier : lag_products_direct)(
      x.begin(), x.begin(), n, static_cast<std::size_t>(most), out.begin());
  return out;
}

// The cycles of each series, a column each: the number of the series (from 1),
// the cycle, its autocorrelation, its share, its share at one frequency, F and
// its degrees of freedom. `z` is how many standard errors a peak must stand
// out.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix cycles_cpp(Rcpp::IntegerVector series,
                               Rcpp::NumericVector number,
                               Rcpp::NumericVector value,
                               Rcpp::NumericVector z) {
  std::vector<double> all;
  double s = 0;
  each_series(series, [&](std::size_t start, std::size_t end) {
    const double own = z[static_cast<R_xlen_t>(s++)];
    const Grid grid(number.begin() + start, value.begin() + start, end - start);
    const auto found = find_cycles(grid.x(), grid.size(), [own](double pairs) {
      return own / std::sqrt(pairs);
    });
    for (const CycleFound& one : found) {
      for (double x : {s, static_cast<double>(one.cycle), one.coefficient,
                       one.share, one.frequency, one.test.statistic,
                       one.test.free, one.test.free_within}) {
        all.push_back(as_r(x));
      }
    }
  });
  Rcpp::NumericMatrix out(8, static_cast<int>(all.size() / 8));
  std::copy(all.begin(), all.end(), out.begin());
  return out;
}

// The waves of each series, a column each: the number of the series (from 1),
// the cycle, its autocorrelation, its share, and its p, below `sure`.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix waves_cpp(Rcpp::IntegerVector series,
                              Rcpp::NumericVector number,
                              Rcpp::NumericVector value, double sure) {
  std::vector<double> all;
  double s = 0;
  each_series(series, [&](std::size_t start, std::size_t end) {
    ++s;
    const Grid grid(number.begin() + start, value.begin() + start, end - start);
    for (const WaveFound& one : Waves(grid.x(), grid.size()).find(sure)) {
      for (double x : {s, static_cast<double>(one.cycle), one.coefficient,
                       one.share, one.p})
        all.push_back(x);
    }
  });
  Rcpp::NumericMatrix out(5, static_cast<int>(all.size() / 5));
  std::copy(all.begin(), all.end(), out.begin());
  return out;
}
