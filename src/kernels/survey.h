// What the times of records have in common, found in one pass and whatever their order: from it their cadence follows.
#ifndef BACKFILL_SURVEY_H
#define BACKFILL_SURVEY_H

#include <cmath>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <numeric>
#include <vector>

#include "calendar.h"
#include "moments.h"

namespace backfill {

struct Survey {
  std::size_t records = 0;
  double lowest = std::numeric_limits<double>::infinity();    // instant
  double highest = -std::numeric_limits<double>::infinity();  // instant
  double anchor = 0;            // local second of the first record in file order
  std::int64_t step = 0;        // greatest common divisor of the distances in seconds; 0 where all are the same
  bool whole_seconds = true;
  bool month_starts = true;     // each at 00:00 on the first of a month
  bool month_ends = true;       // each at 00:00 on the last day of a month
  std::int64_t first_month = 0;
  // Greatest common divisor of the distances in months, as long as all are starts or ends of months.
  std::int64_t months = 0;

  bool in_order = true;         // no record is earlier than one before it

  void add(const Moment& moment) {
    const double local = moment.local;
    if (records == 0) anchor = last_ = local;
    if (moment.instant < highest) in_order = false;
    if (moment.instant < lowest) lowest = moment.instant;
    if (moment.instant > highest) highest = moment.instant;
    if (whole_seconds) step_to(local);
    if (month_starts || month_ends) {
      const std::int64_t day = moment.day;
      const bool midnight = local == static_cast<double>(day) * 86400.0;
      const Civil c = civil_from_days(day);
      month_starts = month_starts && midnight && c.day == 1;
      month_ends = month_ends && midnight && c.day == days_in_month(c.year, c.month);
      const std::int64_t month = month_of(day);
      if (records == 0) first_month = month;
      months = std::gcd(months, month - first_month);
    }
    ++records;
  }

  // What the records of both have in common.
  void add(const Survey& other) {
    if (other.records == 0) return;
    if (records == 0) {
      *this = other;
      return;
    }
    records += other.records;
    in_order = in_order && other.in_order && other.lowest >= highest;
    if (other.lowest < lowest) lowest = other.lowest;
    if (other.highest > highest) highest = other.highest;
    whole_seconds = whole_seconds && other.whole_seconds;
    if (whole_seconds) {
      step = std::gcd(step, other.step);
      step_to(other.anchor);
    }
    month_starts = month_starts && other.month_starts;
    month_ends = month_ends && other.month_ends;
    months = std::gcd(std::gcd(months, other.months), other.first_month - first_month);
  }

 private:
  // A distance from the record before that was there already, and one of whole seconds where the step is one, tell
  // nothing new.
  void step_to(double local) {
    const double from_last = local - last_;
    last_ = local;
    if (from_last == known_) return;
    known_ = from_last;
    const std::int64_t distance = static_cast<std::int64_t>(std::fabs(local - anchor));
    if (std::fabs(local - anchor) != static_cast<double>(distance)) {
      whole_seconds = false;
    } else if (step != 1 && (step == 0 || distance % step != 0)) {
      step = std::gcd(step, distance);
    }
  }

  double last_ = 0;   // local second of the record before
  double known_ = 0;  // distance of the record before from the one before it
};

// One for each series; `series` counts from 1, as R does.
inline std::vector<Survey> survey(const Times& times, Clock clock, const std::int32_t* series, std::size_t count) {
  std::vector<Survey> out(count);
  with_moments(times, clock, [&](auto moments) {
    for (std::size_t i = 0; i < times.n; ++i) out[static_cast<std::size_t>(series[i] - 1)].add(moments[i]);
  });
  return out;
}

}  // namespace backfill

#endif
