// What the times of records have in common, found in one pass and whatever
// their order: from it their cadence follows.
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
#include "lots.h"

namespace backfill {

struct Survey {
  std::size_t records = 0;
  double lowest = std::numeric_limits<double>::infinity();    // instant
  double highest = -std::numeric_limits<double>::infinity();  // instant
  double anchor = 0;  // local second of the first record in file order
  // Greatest common divisors of the distances on the clock and in seconds that
  // pass; 0 where all are the same.
  std::int64_t step = 0, passed = 0;
  bool whole_seconds = true;
  bool month_starts = true;  // each at 00:00 on the first of a month
  bool month_ends = true;    // each at 00:00 on the last day of a month
  std::int64_t first_month = 0;
  // Greatest common divisor of the distances in months, as long as all are
  // starts or ends of months.
  std::int64_t months = 0;

  bool in_order = true;  // no record is earlier than one before it

  void add(const TimedMoment& moment) {
    if (records == 0) start(moment);
    in_order = in_order && moment.instant >= highest;
    if (moment.instant < lowest) lowest = moment.instant;
    if (moment.instant > highest) highest = moment.instant;
    // A distance from the record before that was there already tells nothing
    // new.
    const double from_last = moment.local - last_,
                 passed_since = moment.instant - last_instant_;
    last_ = moment.local;
    last_instant_ = moment.instant;
    if (from_last != known_ || passed_since != known_passed_) {
      known_ = from_last;
      known_passed_ = passed_since;
      step_to(moment.local, moment.instant);
    }
    if (month_starts || month_ends) month_to(moment.local);
    ++records;
  }

  // Whether further records can only move the ends and the order, or not be of
  // whole seconds.
  bool settled() const {
    return !month_starts && !month_ends &&
           ((step == 1 && passed == 1) || !whole_seconds);
  }

  // The records from `i` to before `end`, of a survey that is settled: no more
  // than their instants is needed.
  template <typename Moments>
  void add_settled(const Moments& moments, std::size_t i, std::size_t end) {
    records += end - i;
    double low = lowest, high = highest;
    bool whole = true, risen = true;
    for (; i < end; ++i) {
      const double instant = moments.instant(i), from_first = instant - first_;
      risen = risen & (instant >= high);
      low = instant < low ? instant : low;
      high = instant > high ? instant : high;
      whole =
          whole & (from_first ==
                   static_cast<double>(static_cast<std::int64_t>(from_first)));
    }
    lowest = low;
    highest = high;
    in_order = in_order && risen;
    whole_seconds = whole_seconds && whole;
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
    step = std::gcd(step, other.step);
    passed = std::gcd(passed, other.passed);
    step_to(other.anchor, other.first_);
    month_starts = month_starts && other.month_starts;
    month_ends = month_ends && other.month_ends;
    months = std::gcd(std::gcd(months, other.months),
                      other.first_month - first_month);
  }

 private:
  void start(const TimedMoment& moment) {
    anchor = last_ = moment.local;
    first_ = last_instant_ = moment.instant;
    first_month = month_of(moment.day());
  }

  void step_to(double local, double instant) {
    divide(&step, std::fabs(local - anchor));
    divide(&passed, std::fabs(instant - first_));
  }

  void divide(std::int64_t* common, double distance) {
    const std::int64_t seconds = static_cast<std::int64_t>(distance);
    whole_seconds = whole_seconds && distance == static_cast<double>(seconds);
    if (*common != 1 && whole_seconds &&
        (*common == 0 || seconds % *common != 0))
      *common = std::gcd(*common, seconds);
  }

  void month_to(double local) {
    const std::int64_t day = day_of(local);
    const bool midnight = local == static_cast<double>(day) * 86400.0;
    const Civil c = civil_from_days(day);
    month_starts = month_starts && midnight && c.day == 1;
    month_ends =
        month_ends && midnight && c.day == days_in_month(c.year, c.month);
    months = std::gcd(months, month_of(day) - first_month);
  }

  double first_ = 0;                    // instant of the first record
  double last_ = 0, last_instant_ = 0;  // of the record before
  double known_ = 0,
         known_passed_ =
             0;  // distance of the record before from the one before it
};

// Adds records to the surveys of their series; `series` counts from 1, as R
// does.
inline void survey(const Times& times, Clock clock, const std::int32_t* series,
                   std::vector<Survey>& out) {
  with_moments(times, clock, [&](auto moments) {
    share_out(series, times.n, out.size(), [=, &out](Lot lot) mutable {
      each_run(series, times.n, lot,
               [&](std::size_t s, std::size_t i, std::size_t end) {
                 Survey& survey = out[s];
                 while (i < end && !survey.settled()) survey.add(moments[i++]);
                 if (i < end) survey.add_settled(moments, i, end);
               });
    });
  });
}

}  // namespace backfill

#endif
