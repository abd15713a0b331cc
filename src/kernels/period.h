// The calendar's cut: days into numbered periods. Period 0 holds 1970-01-01; numbers run without a hole, so that
// "one period back" is a subtraction.
#ifndef BACKFILL_PERIOD_H
#define BACKFILL_PERIOD_H

#include "civil.h"

namespace backfill {

enum class Unit { day = 0, week = 1, month = 2, quarter = 3, year = 4 };

// The number of the period that holds a day.
inline std::int64_t period_number(Unit unit, std::int64_t day) {
  if (unit == Unit::day) return day;
  if (unit == Unit::week) return floor_div(day + 3, 7);  // weeks start on Monday
  const Civil c = civil_from_days(day);
  const std::int64_t months = static_cast<std::int64_t>(c.year - 1970) * 12 + c.month - 1;
  if (unit == Unit::month) return months;
  if (unit == Unit::quarter) return floor_div(months, 3);
  return c.year - 1970;
}

// The first day of a period.
inline std::int64_t period_start(Unit unit, std::int64_t number) {
  if (unit == Unit::day) return number;
  if (unit == Unit::week) return number * 7 - 3;
  const std::int64_t months = unit == Unit::month ? number : unit == Unit::quarter ? number * 3 : number * 12;
  const std::int64_t years = floor_div(months, 12);
  return days_from_civil(static_cast<int>(1970 + years), static_cast<int>(months - years * 12) + 1, 1);
}

// The same date some years earlier; 29 February becomes 28 February where the year has none.
inline std::int64_t years_back(std::int64_t day, int years) {
  Civil c = civil_from_days(day);
  c.year -= years;
  const int last = days_in_month(c.year, c.month);
  return days_from_civil(c.year, c.month, c.day < last ? c.day : last);
}

}  // namespace backfill

#endif
