// Doors to the calendar: period numbers, their first days, and the same date in an earlier year.
#include <Rcpp.h>

#include "period.h"

using namespace backfill;

namespace {

Unit unit_of(int code) { return static_cast<Unit>(code); }

// Applies a rule to each whole number of days or periods; NA stays NA.
template <typename Rule>
Rcpp::NumericVector map_whole(const Rcpp::NumericVector& x, Rule rule) {
  Rcpp::NumericVector out(x.size());
  for (R_xlen_t i = 0; i < x.size(); ++i) {
    out[i] = R_FINITE(x[i]) ? static_cast<double>(rule(static_cast<std::int64_t>(std::floor(x[i])))) : NA_REAL;
  }
  return out;
}

}  // namespace

// [[Rcpp::export]]
Rcpp::NumericVector period_number_cpp(Rcpp::NumericVector day, int unit) {
  return map_whole(day, [unit](std::int64_t d) { return period_number(unit_of(unit), d); });
}

// [[Rcpp::export]]
Rcpp::NumericVector period_start_cpp(Rcpp::NumericVector number, int unit) {
  return map_whole(number, [unit](std::int64_t k) { return period_start(unit_of(unit), k); });
}

// [[Rcpp::export]]
Rcpp::NumericVector years_back_cpp(Rcpp::NumericVector day, int years) {
  return map_whole(day, [years](std::int64_t d) { return years_back(d, years); });
}
