// How the doors take calendars: a list of `base` (code), `count`, `origin`,
// `weekdays` and `holidays` of the open days, the zone's `table` (from,
// offset), and the table of `shifts` (from, offset) that cuts periods of the
// clock.
#ifndef BACKFILL_CALENDARS_H
#define BACKFILL_CALENDARS_H

#include <Rcpp/Lightest>

#include <vector>

#include "calendar.h"
#include "times.h"

namespace backfill {

inline Calendar calendar_of(const Rcpp::List& x) {
  const Rcpp::NumericVector holidays = x["holidays"];
  return {
      static_cast<Base>(Rcpp::as<int>(x["base"])),
      static_cast<std::int64_t>(Rcpp::as<double>(x["count"])),
      static_cast<std::int64_t>(Rcpp::as<double>(x["origin"])),
      OpenDays(Rcpp::as<int>(x["weekdays"]),
               std::vector<std::int64_t>(holidays.begin(), holidays.end()))};
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
