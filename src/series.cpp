// Doors to what is computed along a series: earlier rows and moving means. Rows come sorted by series, then by period
// number, without two alike.
#include <Rcpp.h>

#include <algorithm>

#include "earlier.h"
#include "window.h"

using namespace backfill;

// The row (from 1) of the same series whose period has the wanted number, NA where there is none.
// [[Rcpp::export]]
Rcpp::IntegerVector find_rows_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number, Rcpp::NumericVector wanted) {
  const std::size_t n = static_cast<std::size_t>(series.size());
  std::vector<std::ptrdiff_t> row(n);
  find_rows(series.begin(), number.begin(), wanted.begin(), n, row.data());
  Rcpp::IntegerVector out(series.size());
  std::transform(row.begin(), row.end(), out.begin(),
                 [](std::ptrdiff_t r) { return r == no_row ? NA_INTEGER : static_cast<int>(r + 1); });
  return out;
}

// The moving mean of each series over `width` periods. A period without a row counts as missing, never as skipped.
// [[Rcpp::export]]
Rcpp::NumericVector moving_mean_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number, Rcpp::NumericVector value,
                                    int width, bool centred) {
  const R_xlen_t n = series.size();
  Rcpp::NumericVector out(n);
  std::vector<double> grid, mean;
  for (R_xlen_t start = 0, end = 0; start < n; start = end) {
    while (end < n && series[end] == series[start]) ++end;
    const double first = number[start];
    const std::size_t length = static_cast<std::size_t>(number[end - 1] - first) + 1;
    grid.assign(length, NA_REAL);
    mean.resize(length);
    for (R_xlen_t i = start; i < end; ++i) grid[static_cast<std::size_t>(number[i] - first)] = value[i];
    const std::size_t w = static_cast<std::size_t>(width);
    (centred ? centred_mean : trailing_mean)(grid.data(), length, w, mean.data());
    for (R_xlen_t i = start; i < end; ++i) {
      const double m = mean[static_cast<std::size_t>(number[i] - first)];
      out[i] = ISNAN(m) ? NA_REAL : m;
    }
  }
  return out;
}
