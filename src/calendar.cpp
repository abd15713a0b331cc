// Doors to the calendar: the numbers of periods, their starts, open days, and
// the same date in an earlier month.
#include "calendars.h"

using namespace backfill;

namespace {

// Applies a rule to each number that there is; NA stays NA.
template <typename Rule>
Rcpp::NumericVector map_known(const Rcpp::NumericVector& x, Rule rule) {
  Rcpp::NumericVector out(x.size());
  for (R_xlen_t i = 0; i < x.size(); ++i) {
    out[i] = R_FINITE(x[i]) ? static_cast<double>(rule(x[i])) : NA_REAL;
  }
  return out;
}

std::int64_t whole(double x) {
  return static_cast<std::int64_t>(std::floor(x));
}

}  // namespace

// Of days.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector number_of_days_cpp(Rcpp::NumericVector day,
                                       Rcpp::List calendar) {
  const Calendar c = calendar_of(calendar);
  return map_known(day, [&c](double d) { return c.number(whole(d)); });
}

// Of instants.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector number_of_instants_cpp(Rcpp::NumericVector instant,
                                           Rcpp::List calendar) {
  Cut cut = cut_of(calendar);
  return map_known(instant, [&cut](double at) { return cut.number(at); });
}

// The instants at which local days start; where the clock skips midnight, the
// first instant after it. `table` is the zone's.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector midnights_cpp(Rcpp::NumericVector day, Rcpp::List table) {
  const Rcpp::NumericVector from = table["from"], offset = table["offset"];
  LocalClock clock(from.begin(), offset.begin(),
                   static_cast<std::size_t>(from.size()));
  return map_known(
      day, [&clock](double d) { return clock.first_instant(d * 86400.0); });
}

// First days, or first instants of periods of the clock.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector period_start_cpp(Rcpp::NumericVector number,
                                     Rcpp::List calendar) {
  const Cut cut = cut_of(calendar);
  if (cut.by_clock())
    return map_known(number, [&cut](double k) { return cut.start(whole(k)); });
  return map_known(number,
                   [&cut](double k) { return cut.calendar().start(whole(k)); });
}

// The moments at which periods start, as local seconds and as instants.
// [[Rcpp::export(rng = false)]]
Rcpp::List boundaries_cpp(Rcpp::NumericVector number, Rcpp::List calendar) {
  const Rcpp::List table = calendar["table"];
  const Rcpp::NumericVector start = period_start_cpp(number, calendar);
  if (cut_of(calendar).by_clock()) {
    Clock clock = clock_of(table);
    return Rcpp::List::create(
        Rcpp::_["local"] = map_known(
            start, [&clock](double at) { return clock.local_second(at); }),
        Rcpp::_["instant"] = start);
  }
  return Rcpp::List::create(
      Rcpp::_["local"] = map_known(start, [](double d) { return d * 86400.0; }),
      Rcpp::_["instant"] = midnights_cpp(start, table));
}

// How many open days lie before each day, from 1970-01-01 on.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector open_before_cpp(Rcpp::NumericVector day,
                                    Rcpp::List calendar) {
  const OpenDays open = calendar_of(calendar).open;
  return map_known(day, [&open](double d) { return open.before(whole(d)); });
}

// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector months_back_cpp(Rcpp::NumericVector day, int months) {
  return map_known(
      day, [months](double d) { return months_back(whole(d), months); });
}
