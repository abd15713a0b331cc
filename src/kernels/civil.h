// The proleptic Gregorian calendar: days since 1970-01-01 to and from year,
// month and day. The arithmetic counts years from 1 March in eras of 400 years
// (146,097 days), so that the leap day falls last and no table is needed. Years
// 1 to 9999.
#ifndef BACKFILL_CIVIL_H
#define BACKFILL_CIVIL_H

#include <cstdint>

namespace backfill {

struct Civil {
  int year;
  int month;  // 1 to 12
  int day;    // 1 to 31
};

inline std::int64_t floor_div(std::int64_t a, std::int64_t b) {
  return a / b - (a % b != 0 && (a % b < 0) != (b < 0));
}

inline bool is_leap(int year) {
  return year % 4 == 0 && (year % 100 != 0 || year % 400 == 0);
}

inline int days_in_month(int year, int month) {
  static const int days[] = {31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
  return month == 2 && is_leap(year) ? 29 : days[month - 1];
}

inline std::int64_t days_from_civil(int year, int month, int day) {
  const std::int64_t y = month <= 2 ? year - 1 : year;
  const std::int64_t era = floor_div(y, 400);
  const std::int64_t year_of_era = y - era * 400;
  const std::int64_t day_of_year =
      (153 * (month + (month > 2 ? -3 : 9)) + 2) / 5 + day - 1;  // from 1 March
  const std::int64_t day_of_era =
      year_of_era * 365 + year_of_era / 4 - year_of_era / 100 + day_of_year;
  return era * 146097 + day_of_era - 719468;
}

inline Civil civil_from_days(std::int64_t days) {
  const std::int64_t z = days + 719468;
  const std::int64_t era = floor_div(z, 146097);
  const std::int64_t day_of_era = z - era * 146097;
  const std::int64_t year_of_era = (day_of_era - day_of_era / 1460 +
                                    day_of_era / 36524 - day_of_era / 146096) /
                                   365;
  const std::int64_t day_of_year =
      day_of_era - (365 * year_of_era + year_of_era / 4 - year_of_era / 100);
  const std::int64_t m = (5 * day_of_year + 2) / 153;  // 0 is March
  const int month = static_cast<int>(m < 10 ? m + 3 : m - 9);
  const int day = static_cast<int>(day_of_year - (153 * m + 2) / 5 + 1);
  return {static_cast<int>(year_of_era + era * 400 + (month <= 2)), month, day};
}

// 1 is Monday, 7 is Sunday (ISO 8601).
inline int weekday(std::int64_t days) {
  const std::int64_t from_monday = days + 3;  // 1970-01-01 was a Thursday
  return static_cast<int>(from_monday - floor_div(from_monday, 7) * 7) + 1;
}

// The Monday of ISO week `week` of `year`: week 1 is the one that holds 4
// January.
inline std::int64_t iso_week_start(int year, int week) {
  const std::int64_t fourth = days_from_civil(year, 1, 4);
  return fourth - (weekday(fourth) - 1) + 7 * (week - 1);
}

}  // namespace backfill

#endif
