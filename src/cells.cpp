// Door to tables of cells.
#include "cells.h"

#include "series.h"

using namespace backfill;

// By cell: the number of figures, their total, mean and spread, and a quantile
// for each share (a row each).
// [[Rcpp::export(rng = false)]]
Rcpp::List cells_cpp(Rcpp::IntegerVector cell, Rcpp::NumericVector value,
                     int cells, Rcpp::NumericVector shares) {
  Rcpp::IntegerVector count(cells);
  Rcpp::NumericVector total(cells, NA_REAL), mean(cells, NA_REAL),
      spread(cells, NA_REAL);
  Rcpp::NumericMatrix quantiles(static_cast<int>(shares.size()), cells);
  each_cell(cell.begin(), value.begin(), static_cast<std::size_t>(cell.size()),
            static_cast<std::size_t>(cells),
            [&](std::size_t c, const PartSum& sum, const PartSpread& about,
                double* from, double* to) {
              const R_xlen_t at = static_cast<R_xlen_t>(c);
              count[at] = static_cast<int>(sum.count);
              if (sum.count > 0) {
                total[at] = sum.sum.value();
                mean[at] = sum.mean();
                spread[at] = as_r(about.deviation());
              }
              for (R_xlen_t k = 0; k < shares.size(); ++k) {
                quantiles(static_cast<int>(k), static_cast<int>(c)) =
                    as_r(quantile(from, to, shares[k]));
              }
            });
  return Rcpp::List::create(Rcpp::_["count"] = count, Rcpp::_["total"] = total,
                            Rcpp::_["mean"] = mean, Rcpp::_["spread"] = spread,
                            Rcpp::_["quantiles"] = quantiles);
}
