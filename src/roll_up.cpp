// The door to the roll-up.
#include "roll_up.h"

#include "cadences.h"
#include "times.h"

using namespace backfill;

// `series` counts from 1; `cadences`, `lowest` and `highest` (instants) have one element per series. Each
// result has one element per series and period, series by series.
// [[Rcpp::export]]
Rcpp::List roll_up_cpp(SEXP when, double scale, Rcpp::NumericVector zone_from,
                       Rcpp::NumericVector zone_offset, Rcpp::IntegerVector series, Rcpp::NumericVector value,
                       int unit, Rcpp::List cadences, Rcpp::NumericVector lowest, Rcpp::NumericVector highest) {
  Clock clock = clock_of(zone_from, zone_offset);
  const Columns columns(static_cast<Unit>(unit), day_of(clock.local_second(Rcpp::min(lowest))),
                        day_of(clock.local_second(Rcpp::max(highest))));
  const auto cells = roll_up(times_of(when, scale), clock, series.begin(), value.begin(), columns,
                             slotted_of(cadences, lowest, highest));
  const R_xlen_t n = static_cast<R_xlen_t>(cells.size());
  Rcpp::NumericVector sum(n);
  Rcpp::IntegerVector records(n), slots(n);
  for (R_xlen_t i = 0; i < n; ++i) {
    const Accumulator& cell = cells[static_cast<std::size_t>(i)];
    sum[i] = cell.sum.value();
    records[i] = cell.records;
    slots[i] = cell.slots;
  }
  return Rcpp::List::create(Rcpp::_["first"] = static_cast<double>(columns.first()),
                            Rcpp::_["periods"] = static_cast<int>(columns.count()), Rcpp::_["sum"] = sum,
                            Rcpp::_["records"] = records, Rcpp::_["slots"] = slots);
}
