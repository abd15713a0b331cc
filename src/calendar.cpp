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
// [[Rcpp::export]]
Rcpp::NumericVector number_of_days_cpp(Rcpp::NumericVector day,
                                       Rcpp::List calendar) {
  const Calendar c = calendar_of(calendar);
  return map_known(day, [&c](double d) { return c.number(whole(d)); });
}

// Of instants.
// [[Rcpp::export]]
Rcpp::NumericVector number_of_instants_cpp(Rcpp::NumericVector instant,
                                           Rcpp::List calendar) {
  Cut cut = cut_of(calendar);
  return map_known(instant, [&cut](double at) { return cut.number(at); });
}

// First days, or first instants of periods of the clock.
// [[Rcpp::export]]
Rcpp::NumericVector period_start_cpp(Rcpp::NumericVector number,
                                     Rcpp::List calendar) {
  const Cut cut = cut_of(calendar);
  if (cut.by_clock())
    return map_known(number, [&cut](double k) { return cut.start(whole(k)); });
  return map_known(number,
                   [&cut](double k) { return cut.calendar().start(whole(k)); });
}

// How many open days lie before each day, from 1970-01-01 on.
// [[Rcpp::export]]
Rcpp::NumericVector open_before_cpp(Rcpp::NumericVector day,
                                    Rcpp::List calendar) {
  const OpenDays open = calendar_of(calendar).open;
  return map_known(day, [&open](double d) { return open.before(whole(d)); });
}

// [[Rcpp::export]]
Rcpp::NumericVector months_back_cpp(Rcpp::NumericVector day, int months) {
  return map_known(
      day, [months](double d) { return months_back(whole(d), months); });
}
