// Doors to what columns have in common, and to what was known when.
#include <Rcpp/Lightest>

#include <cmath>
#include <vector>

#include "kernels/as_of.h"
#include "kernels/links.h"
#include "kernels/pairs.h"
#include "kernels/side_by_side.h"
#include "series.h"

using namespace backfill;

namespace {

enum class Method { pearson = 0, spearman = 1, kendall = 2, covariance = 3 };

// The figures of both where both are there.
void common_rows(const double* x, const double* y, std::size_t n,
                 std::vector<double>& of_x, std::vector<double>& of_y) {
  of_x.clear();
  of_y.clear();
  for (std::size_t i = 0; i < n; ++i) {
    if (std::isnan(x[i]) || std::isnan(y[i])) continue;
    of_x.push_back(x[i]);
    of_y.push_back(y[i]);
  }
}

}  // namespace

// Of each pair of columns, the first before the second: how many rows both
// have, how many independent ones these are worth by the columns of `memory`
// (autocorrelations at lags 1, 2, ...), and the coefficient, which is NaN below
// `least` rows.
// [[Rcpp::export(rng = false)]]
Rcpp::List correlate_cpp(Rcpp::NumericMatrix x, Rcpp::NumericMatrix memory,
                         int method, double least) {
  const std::size_t rows = static_cast<std::size_t>(x.nrow()),
                    columns = static_cast<std::size_t>(x.ncol()),
                    lags = static_cast<std::size_t>(memory.nrow()),
                    count = columns * (columns - (columns > 0)) / 2;
  const Method asked = static_cast<Method>(method);
  std::vector<PairColumn> of;
  of.reserve(columns);
  for (std::size_t j = 0; j < columns; ++j) {
    const double* from = x.begin() + j * rows;
    std::vector<double> ranked;
    if (asked == Method::spearman) {
      ranked.assign(from, from + rows);
      const bool whole = std::none_of(ranked.begin(), ranked.end(),
                                      [](double v) { return std::isnan(v); });
      if (whole) ranked = ranks_of(ranked);
    }
    of.emplace_back(ranked.empty() ? from : ranked.data(), rows);
  }
  Rcpp::IntegerVector first(count), second(count);
  Rcpp::NumericVector n(count), worth(count), coefficient(count);
  int *const first_to = first.begin(), *const second_to = second.begin();
  double *const n_to = n.begin(), *const worth_to = worth.begin(),
                *const coefficient_to = coefficient.begin();
  const double *const values = x.begin(), *const past = memory.begin();
  side_by_side(columns == 0 ? 0 : columns - 1, [&](std::size_t i) {
    std::vector<double> of_x, of_y;
    std::size_t put = i * columns - i * (i + 1) / 2;
    for (std::size_t j = i + 1; j < columns; ++j, ++put) {
      const Together both = together(of[i], of[j]);
      first_to[put] = static_cast<int>(i) + 1;
      second_to[put] = static_cast<int>(j) + 1;
      n_to[put] = both.n;
      worth_to[put] =
          pairs_worth(both.n, past + i * lags, past + j * lags, lags);
      double found = std::nan("");
      if (both.n >= least) {
        const bool whole = of[i].whole() && of[j].whole();
        if (asked == Method::covariance) {
          found = both.covariance();
        } else if (asked == Method::pearson ||
                   (asked == Method::spearman && whole)) {
          found = both.correlation();
        } else {
          common_rows(values + i * rows, values + j * rows, rows, of_x, of_y);
          if (asked == Method::kendall) {
            found = concordance(of_x, of_y);
          } else {
            const std::vector<double> a = ranks_of(of_x), b = ranks_of(of_y);
            found = together(PairColumn(a.data(), a.size()),
                             PairColumn(b.data(), b.size()))
                        .correlation();
          }
        }
      }
      coefficient_to[put] = found;
    }
  });
  return Rcpp::List::create(
      Rcpp::_["first"] = first, Rcpp::_["second"] = second, Rcpp::_["n"] = n,
      Rcpp::_["n_effective"] = worth, Rcpp::_["coefficient"] = coefficient);
}

// Of each column but the `target` (from 0) how its changes over `horizon` rows
// go with those of the target `ahead` rows later.
// [[Rcpp::export(rng = false)]]
Rcpp::List links_cpp(Rcpp::NumericMatrix x, int target, int horizon,
                     int ahead) {
  const std::size_t rows = static_cast<std::size_t>(x.nrow()),
                    columns = static_cast<std::size_t>(x.ncol()),
                    at = static_cast<std::size_t>(target);
  const double* const values = x.begin();
  const LinkFinder finder(values + at * rows, rows,
                          static_cast<std::size_t>(horizon),
                          static_cast<std::size_t>(ahead));
  std::vector<Link> found(columns);
  side_by_side(columns, [&](std::size_t j) {
    if (j != at) found[j] = finder.with(values + j * rows);
  });
  Rcpp::IntegerVector n(x.ncol()), distinct(x.ncol());
  Rcpp::NumericVector worth(x.ncol()), coefficient(x.ncol()),
      first_half(x.ncol()), later_half(x.ncol());
  for (std::size_t j = 0; j < columns; ++j) {
    const R_xlen_t to = static_cast<R_xlen_t>(j);
    n[to] = static_cast<int>(found[j].n);
    distinct[to] = static_cast<int>(found[j].distinct);
    worth[to] = found[j].worth;
    coefficient[to] = as_r(found[j].coefficient);
    first_half[to] = as_r(found[j].first_half);
    later_half[to] = as_r(found[j].later_half);
  }
  return Rcpp::List::create(
      Rcpp::_["n"] = n, Rcpp::_["distinct"] = distinct,
      Rcpp::_["n_effective"] = worth, Rcpp::_["coefficient"] = coefficient,
      Rcpp::_["first_half"] = first_half, Rcpp::_["later_half"] = later_half);
}

// For each series and each of the `days`, which rise: the row (from 1) that was
// known of it then, or NA. Rows come in order of series, then of `known`.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerMatrix as_of_cpp(Rcpp::IntegerVector series,
                              Rcpp::NumericVector period,
                              Rcpp::NumericVector known,
                              Rcpp::NumericVector value,
                              Rcpp::NumericVector days, int count) {
  Rcpp::IntegerMatrix out(static_cast<int>(days.size()), count);
  std::fill(out.begin(), out.end(), NA_INTEGER);
  const std::size_t rows = static_cast<std::size_t>(series.size());
  for (std::size_t from = 0; from < rows;) {
    std::size_t to = from;
    while (to < rows && series[to] == series[from]) ++to;
    latest_known(period.begin(), known.begin(), value.begin(), from, to,
                 days.begin(), static_cast<std::size_t>(days.size()),
                 out.begin() + static_cast<std::ptrdiff_t>(series[from] - 1) *
                                   days.size());
    from = to;
  }
  return out;
}
