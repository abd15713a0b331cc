// Reads dates as people write them, in each of the orders in which a text can
// be meant, so that a whole column can decide between them:
//   9/4/2031  09.04.31  4-9-2031  2031/4/9  9 April 2031  Apr 9, 2031  Wed
//   9-Apr-31  04/2031  Apr 2031  203104 Q2 2031  2031Q2  FY2031  FY31 Q2
//   2030/31  20310409073015, each with a time of day behind it where it names a
//   day
#ifndef BACKFILL_WRITTEN_DATE_H
#define BACKFILL_WRITTEN_DATE_H

#include <array>

#include "date_parts.h"
#include "iso8601.h"

namespace backfill {

// The last is that of years which span two: 2030/31.
enum class DateOrder { ymd = 0, dmy = 1, mdy = 2, fiscal = 3 };
constexpr std::size_t date_orders = 4;

struct DateRules {
  int pivot_year;  // two-digit years lie in the hundred years from this one
  int year_start;  // the month in which a fiscal year starts; a year that does
                   // not start in January has the number of the year in which
                   // it ends
};

struct WrittenDate {
  std::array<Moment, date_orders> by;
  bool year_first;  // four digits of the year stand first, so that only one
                    // order can be meant
  std::array<bool, date_orders> two_digits;  // of the year
  bool fiscal;
};

namespace detail {

// -1 where the number is no year.
inline int year_of(Number x, const DateRules& rules, bool* two_digits) {
  if (x.digits == 4) return x.value > 0 ? x.value : -1;
  if (x.digits != 2) return -1;
  *two_digits = true;
  const int year = rules.pivot_year - rules.pivot_year % 100 + x.value;
  return year < rules.pivot_year ? year + 100 : year;
}

inline Moment date_of(int year, Number month, Number day) {
  if (year < 0 || month.digits > 2 || day.digits > 2)
    return failed(Outcome::not_a_date);
  if (month.value < 1 || month.value > 12 || day.value < 1 ||
      day.value > days_in_month(year, month.value)) {
    return failed(Outcome::no_such_date);
  }
  return of_day(days_from_civil(year, month.value, day.value), Precision::day);
}

inline Moment month_of(int year, int month) {
  if (year < 0) return failed(Outcome::not_a_date);
  if (month < 1 || month > 12) return failed(Outcome::no_such_date);
  return of_day(days_from_civil(year, month, 1), Precision::month);
}

// The fiscal year that carries the number `year`, or a quarter of it.
inline Moment fiscal_of(int year, int quarter, const DateRules& rules) {
  if (year < 0) return failed(Outcome::not_a_date);
  if (quarter > 4) return failed(Outcome::no_such_date);
  const int first =
      (rules.year_start == 1 ? year : year - 1) * 12 + rules.year_start - 1;
  const int month = first + (quarter > 0 ? (quarter - 1) * 3 : 0);
  return of_day(days_from_civil(month / 12, month % 12 + 1, 1),
                quarter > 0 ? Precision::quarter : Precision::year);
}

// The numbers of a date without a name in it, in one order.
inline Moment numbers_in_order(const DateParts& p, DateOrder order,
                               const DateRules& rules, bool* two_digits) {
  const auto& n = p.number;
  if (p.numbers == 3) {
    if (n[0].digits == 4 && order != DateOrder::ymd)
      return failed(Outcome::not_a_date);
    switch (order) {
      case DateOrder::ymd:
        return date_of(year_of(n[0], rules, two_digits), n[1], n[2]);
      case DateOrder::dmy:
        return date_of(year_of(n[2], rules, two_digits), n[1], n[0]);
      default:
        return date_of(year_of(n[2], rules, two_digits), n[0], n[1]);
    }
  }
  if (p.numbers == 2) {
    if (n[0].digits == 4 && n[1].digits <= 2)
      return month_of(year_of(n[0], rules, two_digits), n[1].value);
    if (n[1].digits == 4 && n[0].digits <= 2)
      return month_of(year_of(n[1], rules, two_digits), n[0].value);
  }
  if (p.numbers == 1 && n[0].digits == 6 && n[0].value >= 180000 &&
      n[0].value < 220000) {
    return month_of(n[0].value / 100, n[0].value % 100);
  }
  return failed(Outcome::not_a_date);
}

// A date with the month's name in it, in one order.
inline Moment named_in_order(const DateParts& p, DateOrder order,
                             const DateRules& rules, bool* two_digits) {
  const auto& n = p.number;
  const Number month{p.month, 2};
  if (p.numbers == 1)
    return month_of(year_of(n[0], rules, two_digits), p.month);
  if (p.numbers != 2) return failed(Outcome::not_a_date);
  const bool year_first =
      n[0].digits == 4 || (n[1].digits != 4 && order == DateOrder::ymd);
  return date_of(year_of(n[year_first ? 0 : 1], rules, two_digits), month,
                 n[year_first ? 1 : 0]);
}

// 2030/31, whose second year must follow the first; -1 where it is none. The
// number is the one that a fiscal year of that start carries.
inline int spanned_year(const DateParts& p, const DateRules& rules,
                        bool* two_digits) {
  if (p.numbers != 2 || !p.slash_span || p.month != 0 || p.week != 0) return -1;
  const int first = year_of(p.number[0], rules, two_digits);
  bool ignored = false;
  const int second = p.number[1].digits == 4
                         ? p.number[1].value
                         : year_of(p.number[1], rules, &ignored);
  if (first < 0 || second < 0 || (first + 1) % 100 != second % 100) return -1;
  return rules.year_start == 1 ? first : first + 1;
}

inline Moment with_time(Moment date, const char* time, const char* end) {
  if (time == nullptr || date.outcome != Outcome::read) return date;
  if (date.precision != Precision::day) return failed(Outcome::not_a_date);
  Cursor c(time, end);
  c.spaces();
  return read_time(c, date);
}

// 20310409073015 or 203104090730: twelve or fourteen digits, a year first.
inline Moment read_compact(const char* text, const char* end) {
  const auto n = end - text;
  if (n != 12 && n != 14) return failed(Outcome::not_a_date);
  for (const char* p = text; p != end; ++p) {
    if (*p < '0' || *p > '9') return failed(Outcome::not_a_date);
  }
  const Moment date = read_moment(text, 8);
  return date.outcome == Outcome::read ? read_time(Cursor(text + 8, end), date)
                                       : date;
}

}  // namespace detail

inline WrittenDate read_written_date(const char* text, std::size_t length,
                                     const DateRules& rules) {
  using namespace detail;
  WrittenDate out{};
  const char* end = text + length;
  while (text != end && is_space(*text)) ++text;
  while (text != end && is_space(end[-1])) --end;
  if (text != end && *text == '-') {  // a year before the first, which is not
                                      // read, and not the year of its digits
    out.by.fill(failed(Outcome::not_a_date));
    return out;
  }
  const Moment iso = read_moment(text, static_cast<std::size_t>(end - text));
  out.by.fill(iso);
  out.year_first =
      iso.outcome != Outcome::not_a_date && iso.outcome != Outcome::blank;
  if (iso.outcome == Outcome::blank) return out;
  if (iso.outcome == Outcome::read && iso.precision >= Precision::day) {
    out.by[3] = failed(Outcome::not_a_date);
    return out;
  }

  DateParts parts;
  const bool parted = read_parts(text, end, &parts);
  bool short_year = false;
  const int spanned = parted ? spanned_year(parts, rules, &short_year) : -1;
  out.two_digits[3] = short_year;
  short_year = false;
  if (out.year_first) {
    // 2010-11 is a month, and may be a fiscal year.
    out.by[3] = spanned > 0 ? fiscal_of(spanned, parts.quarter, rules)
                            : failed(Outcome::not_a_date);
    return out;
  }
  const Moment compact = read_compact(text, end);
  if (compact.outcome != Outcome::not_a_date) {
    out.by.fill(compact);
    out.year_first = true;
    return out;
  }
  out.by.fill(failed(Outcome::not_a_date));
  if (!parted) return out;
  if (parts.fiscal || (spanned > 0 && parts.quarter > 0)) {
    out.fiscal = true;
    const int year = spanned > 0 ? spanned
                     : parts.numbers == 1
                         ? year_of(parts.number[0], rules, &short_year)
                         : -1;
    out.two_digits.fill(short_year);
    if (parts.month == 0 && parts.week == 0)
      out.by.fill(fiscal_of(year, parts.quarter, rules));
    return out;
  }
  if (parts.quarter > 0 || parts.week > 0) {
    if (parts.numbers != 1 || parts.month != 0 ||
        (parts.quarter > 0 && parts.week > 0))
      return out;
    const int year = year_of(parts.number[0], rules, &short_year);
    out.two_digits.fill(short_year);
    if (year < 0) return out;
    if (parts.quarter > 4 || parts.week > 53 ||
        (parts.week == 53 &&
         iso_week_start(year, 53) >= iso_week_start(year + 1, 1))) {
      out.by.fill(failed(Outcome::no_such_date));
    } else if (parts.quarter > 0) {
      out.by.fill(of_day(days_from_civil(year, parts.quarter * 3 - 2, 1),
                         Precision::quarter));
    } else {
      out.by.fill(of_day(iso_week_start(year, parts.week), Precision::week));
    }
    return out;
  }
  for (std::size_t i = 0; i < 3; ++i) {
    const DateOrder order = static_cast<DateOrder>(i);
    const Moment date =
        parts.month != 0
            ? named_in_order(parts, order, rules, &out.two_digits[i])
            : numbers_in_order(parts, order, rules, &out.two_digits[i]);
    out.by[i] = with_time(date, parts.time, end);
  }
  if (spanned > 0 && parts.time == nullptr)
    out.by[3] = fiscal_of(spanned, parts.quarter, rules);
  // A year of four digits in front leaves no choice.
  out.year_first =
      parts.numbers > 0 && parts.number[0].digits == 4 && parts.month == 0;
  return out;
}

}  // namespace backfill

#endif
