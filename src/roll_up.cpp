// Doors to the cadence and the roll-up. A cadence is list(steps, length, anchor, unit, weekdays).
#include "roll_up.h"

#include "times.h"

using namespace backfill;

namespace {

Cadence cadence_of(const Rcpp::List& x) {
  return {static_cast<Steps>(Rcpp::as<int>(x["steps"])), Rcpp::as<double>(x["length"]),
          Rcpp::as<double>(x["anchor"]), static_cast<Unit>(Rcpp::as<int>(x["unit"])), Rcpp::as<int>(x["weekdays"])};
}

}  // namespace

// [[Rcpp::export]]
Rcpp::List survey_cpp(Rcpp::NumericVector when, double scale, Rcpp::NumericVector zone_from,
                      Rcpp::NumericVector zone_offset) {
  const Survey s = survey(times_of(when, scale), clock_of(zone_from, zone_offset));
  return Rcpp::List::create(Rcpp::_["lowest"] = s.lowest, Rcpp::_["highest"] = s.highest,
                            Rcpp::_["anchor"] = s.anchor, Rcpp::_["step"] = static_cast<double>(s.step),
                            Rcpp::_["whole_seconds"] = s.whole_seconds, Rcpp::_["month_starts"] = s.month_starts,
                            Rcpp::_["month_ends"] = s.month_ends, Rcpp::_["months"] = static_cast<double>(s.months));
}

// [[Rcpp::export]]
Rcpp::NumericVector filled_slots_cpp(Rcpp::NumericVector when, double scale, Rcpp::NumericVector zone_from,
                                     Rcpp::NumericVector zone_offset, Rcpp::List cadence, double lowest,
                                     double highest) {
  const auto filled = filled_slots(times_of(when, scale), clock_of(zone_from, zone_offset), cadence_of(cadence),
                                   lowest, highest);
  return Rcpp::NumericVector(filled.begin(), filled.end());
}

// `series` counts from 1 to `series_count`. Each result has one element per series and period, series by series.
// [[Rcpp::export]]
Rcpp::List roll_up_cpp(Rcpp::NumericVector when, double scale, Rcpp::NumericVector zone_from,
                       Rcpp::NumericVector zone_offset, Rcpp::IntegerVector series, int series_count,
                       Rcpp::NumericVector value, int unit, Rcpp::List cadence, double lowest, double highest) {
  Clock clock = clock_of(zone_from, zone_offset);
  const Columns columns(static_cast<Unit>(unit), day_of(clock.local_second(lowest)),
                        day_of(clock.local_second(highest)));
  const auto cells = roll_up(times_of(when, scale), clock, series.begin(), static_cast<std::size_t>(series_count),
                             value.begin(), columns, cadence_of(cadence), lowest, highest);
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
