// Doors to what looks odd in records. `row` puts the rows in order of series
// and time; both count from 1.
#include "look.h"

#include "cadences.h"
#include "times.h"

using namespace backfill;

namespace {

SortedRows rows_in_order(const Rcpp::IntegerVector& row,
                         const Rcpp::IntegerVector& series) {
  return {row.begin(), series.begin(), static_cast<std::size_t>(row.size())};
}

}  // namespace

// [[Rcpp::export(rng = false)]]
Rcpp::List find_gaps_cpp(SEXP when, double scale, Rcpp::NumericVector zone_from,
                         Rcpp::NumericVector zone_offset,
                         Rcpp::IntegerVector row, Rcpp::IntegerVector series,
                         Rcpp::List cadences) {
  const auto gaps =
      find_gaps(times_of(when, scale), clock_of(zone_from, zone_offset),
                rows_in_order(row, series), cadences_of(cadences));
  const R_xlen_t n = static_cast<R_xlen_t>(gaps.size());
  Rcpp::IntegerVector after(n), before(n);
  Rcpp::NumericVector missing(n);
  for (R_xlen_t i = 0; i < n; ++i) {
    const Gap& gap = gaps[static_cast<std::size_t>(i)];
    after[i] = gap.after;
    before[i] = gap.before;
    missing[i] = static_cast<double>(gap.missing);
  }
  return Rcpp::List::create(Rcpp::_["after"] = after,
                            Rcpp::_["before"] = before,
                            Rcpp::_["missing"] = missing);
}

// Of values strictly between `above` and `below`; see struct Extremes.
// [[Rcpp::export(rng = false)]]
Rcpp::List extremes_cpp(Rcpp::NumericVector value, double above, double below) {
  const Extremes found =
      find_extremes(value.begin(), static_cast<std::size_t>(value.size()),
                    above, below);
  const auto known = [](double x) { return std::isnan(x) ? NA_REAL : x; };
  return Rcpp::List::create(
      Rcpp::_["low"] = known(found.low), Rcpp::_["high"] = known(found.high),
      Rcpp::_["at_low"] = static_cast<double>(found.at_low),
      Rcpp::_["at_high"] = static_cast<double>(found.at_high),
      Rcpp::_["next_low"] = known(found.next_low),
      Rcpp::_["next_high"] = known(found.next_high));
}

// [[Rcpp::export(rng = false)]]
Rcpp::List look_at_values_cpp(Rcpp::NumericVector value,
                              Rcpp::IntegerVector row,
                              Rcpp::IntegerVector series) {
  const ValueLook found =
      look_at_values(value.begin(), rows_in_order(row, series));
  return Rcpp::List::create(
      Rcpp::_["negatives"] = static_cast<double>(found.negatives),
      Rcpp::_["falls"] = static_cast<double>(found.falls),
      Rcpp::_["zero_series"] = found.zero_series,
      Rcpp::_["longest"] = static_cast<double>(found.longest),
      Rcpp::_["longest_value"] = found.longest_value,
      Rcpp::_["mean_run"] = found.runs == 0
                                ? 0.0
                                : static_cast<double>(found.in_runs) /
                                      static_cast<double>(found.runs));
}
