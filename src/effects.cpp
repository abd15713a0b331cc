// The door to effects of the calendar. Rows come sorted by series, then by
// period number, without two alike.
#include "effects.h"

#include <vector>

#include "series.h"
#include "side_by_side.h"

using namespace backfill;

// `counts` has a row for each period from `first` on. Returned are by series
// the rows that the fit rests on and its degrees of freedom, the estimates, and
// their covariances column by column.
// [[Rcpp::export(rng = false)]]
Rcpp::List calendar_effects_cpp(Rcpp::IntegerVector series,
                                Rcpp::NumericVector number,
                                Rcpp::NumericVector value,
                                Rcpp::NumericMatrix counts, double first,
                                int cycle) {
  const std::vector<Ends> ends = ends_of_series(series);
  const std::size_t k = static_cast<std::size_t>(counts.ncol());
  const std::size_t periods = static_cast<std::size_t>(counts.nrow());
  const int lines = static_cast<int>(ends.size());
  Rcpp::NumericMatrix size(2, lines), estimate(counts.ncol(), lines),
      variance(counts.ncol() * counts.ncol(), lines);
  std::vector<std::vector<std::size_t>> apart(ends.size());
  double *const sizes = size.begin(), *const estimates = estimate.begin(),
                *const variances = variance.begin();
  const double *const numbers = number.begin(), *const values = value.begin(),
                      *const count = counts.begin();
  side_by_side(ends.size(), [&](std::size_t line) {
    std::vector<std::size_t> place;
    Column at_place(periods, 0);
    for (std::size_t i = ends[line].start; i < ends[line].end; ++i) {
      if (std::isnan(values[i])) continue;
      place.push_back(static_cast<std::size_t>(numbers[i] - first));
      at_place[place.back()] = values[i];
    }
    const Effects made = effects_along(
        place, k, static_cast<std::size_t>(cycle),
        [&](std::size_t j, std::size_t one) {
          return count[j * periods + one];
        },
        [&](std::size_t one) { return at_place[one]; });
    apart[line] = made.apart;
    sizes[2 * line] = made.rows, sizes[2 * line + 1] = made.free;
    for (std::size_t i = 0; i < k; ++i) {
      estimates[k * line + i] = as_r(made.estimate[i]);
      for (std::size_t j = 0; j < k; ++j)
        variances[k * k * line + k * i + j] = as_r(made.variance[i][j]);
    }
  });
  std::vector<int> apart_line;
  std::vector<double> apart_number;
  for (std::size_t line = 0; line < apart.size(); ++line)
    for (const std::size_t one : apart[line]) {
      apart_line.push_back(static_cast<int>(line) + 1);
      apart_number.push_back(first + static_cast<double>(one));
    }
  return Rcpp::List::create(
      Rcpp::_["apart_line"] = apart_line,
      Rcpp::_["apart_number"] = apart_number, Rcpp::_["size"] = size,
      Rcpp::_["estimate"] = estimate, Rcpp::_["variance"] = variance);
}
