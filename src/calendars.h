// How the doors take calendars: a list of `base` (code), `count`, `origin`,
// `weekdays` and `holidays` of the open days, the `weeks` (reach, pattern) that
// months are made of, `week_start`, `year_start`, the zone's `table` (from,
// offset), and the table of `shifts` (from, offset) that cuts periods of the
// clock.
#ifndef BACKFILL_CALENDARS_H
#define BACKFILL_CALENDARS_H

#include <Rcpp/Lightest>

#include <vector>

#include "calendar.h"
#include "times.h"

namespace backfill {

inline WeekMonths weeks_of(const Rcpp::List& x) {
  const Rcpp::NumericVector weeks = x["weeks"];
  WeekMonths out;
  out.week_start = Rcpp::as<int>(x["week_start"]);
  out.year_start = Rcpp::as<int>(x["year_start"]);
  out.reach = static_cast<int>(weeks[0]);
  for (int i = 0; i < 3; ++i) out.pattern[i] = static_cast<int>(weeks[i + 1]);
  return out;
}

inline Calendar calendar_of(const Rcpp::List& x) {
  const Rcpp::NumericVector holidays = x["holidays"];
  const auto base = static_cast<Base>(Rcpp::as<int>(x["base"]));
  return {base, static_cast<std::int64_t>(Rcpp::as<double>(x["count"])),
          static_cast<std::int64_t>(Rcpp::as<double>(x["origin"])),
          OpenDays(Rcpp::as<int>(x["weekdays"]),
                   std::vector<std::int64_t>(holidays.begin(), holidays.end())),
          base == Base::week_month ? weeks_of(x) : WeekMonths()};
}

// The tables must outlive what is made of them.
inline Clock clock_of(const Rcpp::List& table) {
  return clock_of(Rcpp::NumericVector(table["from"]),
                  Rcpp::NumericVector(table["offset"]));
}

inline Cut cut_of(const Rcpp::List& x) {
  const Rcpp::List shifts = x["shifts"];
  const Rcpp::NumericVector from = shifts["from"], offset = shifts["offset"];
  return Cut(calendar_of(x), clock_of(Rcpp::List(x["table"])), from.begin(),
             offset.begin(), static_cast<std::size_t>(from.size()));
}

}  // namespace backfill

#endif
