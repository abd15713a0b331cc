// Reads the dates and times of ISO 8601 from text, strictly: each form is read whole or not at all.
//   2031  2031-04  2031-Q2  2031-W05  2031-W05-3  2031-04-09  20310409
//   2031-04-09T07:30  2031-04-09 07:30:15.25  ...  with Z, +01, +01:00 or +0100 behind a time
// (2031-Q2 is no ISO form; it is how this package labels quarters, so it is read back.)
#ifndef BACKFILL_ISO8601_H
#define BACKFILL_ISO8601_H

#include <cstddef>

#include "civil.h"

namespace backfill {

// How fine a text is. The order matters: a larger one is finer.
enum class Precision { year = 0, quarter = 1, month = 2, week = 3, day = 4, time = 5 };

enum class Outcome { read = 0, blank = 1, not_iso = 2, no_such_date = 3, no_such_time = 4 };

struct Moment {
  Outcome outcome;
  Precision precision;
  double second;    // since 1970-01-01 00:00 on the clock that the text speaks of; UTC where `has_offset`
  bool has_offset;
};

namespace detail {

class Cursor {
 public:
  Cursor(const char* at, const char* end) : at_(at), end_(end) {}
  bool done() const { return at_ == end_; }
  char peek() const { return at_ == end_ ? '\0' : *at_; }
  bool take(char c) {
    if (peek() != c) return false;
    ++at_;
    return true;
  }
  // Exactly `count` digits.
  bool digits(int count, int* out) {
    if (end_ - at_ < count) return false;
    int value = 0;
    for (int i = 0; i < count; ++i) {
      if (at_[i] < '0' || at_[i] > '9') return false;
      value = value * 10 + (at_[i] - '0');
    }
    at_ += count;
    *out = value;
    return true;
  }
  bool digit_next() const { return at_ != end_ && *at_ >= '0' && *at_ <= '9'; }
  // The digits behind a decimal mark, as a fraction of one.
  bool fraction(double* out) {
    if (!digit_next()) return false;
    double value = 0, scale = 1;
    for (; digit_next(); ++at_) {
      scale /= 10;
      value += (*at_ - '0') * scale;
    }
    *out = value;
    return true;
  }

 private:
  const char* at_;
  const char* end_;
};

// The clock time and what follows it; the date's seconds are in `m` already.
inline Moment read_time(Cursor c, Moment m) {
  const Moment not_iso = {Outcome::not_iso, Precision::time, 0, false};
  int hour = 0, minute = 0, second = 0;
  double part = 0;
  if (!c.digits(2, &hour)) return not_iso;
  if (c.take(':')) {
    if (!c.digits(2, &minute)) return not_iso;
    if (c.take(':')) {
      if (!c.digits(2, &second)) return not_iso;
      if ((c.take('.') || c.take(',')) && !c.fraction(&part)) return not_iso;
    }
  }
  double offset = 0;
  if (c.take('Z')) {
    m.has_offset = true;
  } else if (c.peek() == '+' || c.peek() == '-') {
    const double sign = c.take('+') ? 1 : (c.take('-'), -1);
    int hours = 0, minutes = 0;
    if (!c.digits(2, &hours)) return not_iso;
    if (c.take(':') || c.digit_next()) {
      if (!c.digits(2, &minutes)) return not_iso;
    }
    if (hours > 18 || minutes > 59) return {Outcome::no_such_time, Precision::time, 0, false};
    offset = sign * (hours * 3600 + minutes * 60);
    m.has_offset = true;
  }
  if (!c.done()) return not_iso;
  const bool end_of_day = hour == 24 && minute == 0 && second == 0 && part == 0;  // 24:00 is the next day's 00:00
  if ((hour > 23 && !end_of_day) || minute > 59 || second > 59) {
    return {Outcome::no_such_time, Precision::time, 0, false};
  }
  m.precision = Precision::time;
  m.second += hour * 3600.0 + minute * 60.0 + second + part - offset;
  return m;
}

inline Moment of_day(std::int64_t day, Precision precision) {
  return {Outcome::read, precision, static_cast<double>(day) * 86400.0, false};
}

inline bool is_space(char c) { return c == ' ' || c == '\t'; }

}  // namespace detail

inline Moment read_moment(const char* text, std::size_t length) {
  using detail::of_day;
  const Moment not_iso = {Outcome::not_iso, Precision::day, 0, false};
  const Moment no_such_date = {Outcome::no_such_date, Precision::day, 0, false};
  const char* end = text + length;
  while (text != end && detail::is_space(*text)) ++text;
  while (text != end && detail::is_space(end[-1])) --end;
  if (text == end) return {Outcome::blank, Precision::day, 0, false};

  detail::Cursor c(text, end);
  int year = 0, month = 0, day = 0;
  if (!c.digits(4, &year)) return not_iso;
  if (year == 0) return no_such_date;
  if (c.done()) return of_day(days_from_civil(year, 1, 1), Precision::year);
  if (c.take('-')) {
    if (c.take('W')) {
      int week = 0, wday = 1;
      if (!c.digits(2, &week)) return not_iso;
      const bool to_the_day = c.take('-');
      if ((to_the_day && !c.digits(1, &wday)) || !c.done()) return not_iso;
      const std::int64_t start = week < 1 ? 0 : iso_week_start(year, week);
      if (week < 1 || start >= iso_week_start(year + 1, 1) || wday < 1 || wday > 7) return no_such_date;
      return of_day(start + wday - 1, to_the_day ? Precision::day : Precision::week);
    }
    if (c.take('Q')) {
      int quarter = 0;
      if (!c.digits(1, &quarter) || !c.done()) return not_iso;
      if (quarter < 1 || quarter > 4) return no_such_date;
      return of_day(days_from_civil(year, quarter * 3 - 2, 1), Precision::quarter);
    }
    if (!c.digits(2, &month)) return not_iso;
    if (c.done()) {
      if (month < 1 || month > 12) return no_such_date;
      return of_day(days_from_civil(year, month, 1), Precision::month);
    }
    if (!c.take('-') || !c.digits(2, &day)) return not_iso;
  } else if (!c.digits(2, &month) || !c.digits(2, &day)) {
    return not_iso;
  }
  const bool timed = c.take('T') || c.take(' ');
  if (!timed && !c.done()) return not_iso;
  if (month < 1 || month > 12 || day < 1 || day > days_in_month(year, month)) return no_such_date;
  const Moment date = of_day(days_from_civil(year, month, day), Precision::day);
  return timed ? detail::read_time(c, date) : date;
}

}  // namespace backfill

#endif
