// Reads the dates and times of ISO 8601 from text, strictly: each form is read
// whole or not at all.
//   2031  2031-04  2031-Q2  2031-W05  2031-W05-3  2031-099  2031-04-09
//   20310409  2031-04-09T07:30  2031-04-09 07:30:15.25
//   with Z, +01, +01:00 or +0100 behind a time
//   2031-04-09 06:00-07:00, which is a time with an offset or a span of time:
//   the column decides (see date_column.h)
//
// (2031-Q2 is no ISO form; it is how this package labels quarters, so it is
// read back. Of times, forms that mean one thing only are read as well: 7:30,
// 7:30 pm, 0730.)
#ifndef BACKFILL_ISO8601_H
#define BACKFILL_ISO8601_H

#include <cstddef>
#include <cstring>

#include "civil.h"

namespace backfill {

// How fine a text is. The order matters: a larger one is finer.
enum class Precision {
  year = 0,
  quarter = 1,
  month = 2,
  week = 3,
  day = 4,
  time = 5
};

enum class Outcome {
  read = 0,
  blank = 1,
  not_a_date = 2,
  no_such_date = 3,
  no_such_time = 4
};

// Two clock times with a dash between them: from one to the other, or a time
// with its offset from UTC.
struct Span {
  // Minutes of the day; -1 where the text is no such thing.
  int start = -1;
  int end = -1;
  double second = 0;  // of the start, if it is a span
  bool sure = false;  // it can be nothing else

  bool there() const { return end >= 0; }
  // In seconds; one that does not end after its start does on the next day.
  double length() const {
    return 60.0 * (end > start ? end - start : end - start + 24 * 60);
  }
};

struct Moment {
  Outcome outcome;
  Precision precision;
  double second;  // since 1970-01-01 00:00 on the clock that the text speaks
                  // of; UTC where `has_offset`
  bool has_offset;
  bool end_of_day = false;  // written as 24:00
  Span span = {};
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
  void skip() { ++at_; }
  void spaces() {
    while (peek() == ' ' || peek() == '\t') ++at_;
  }
  bool word(const char* text) {
    const std::size_t n = std::strlen(text);
    if (static_cast<std::size_t>(end_ - at_) < n ||
        std::memcmp(at_, text, n) != 0)
      return false;
    at_ += n;
    return true;
  }
  bool ends_after_digits(int count) const { return end_ - at_ == count; }
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

inline bool is_space(char c) { return c == ' ' || c == '\t'; }

inline Moment failed(Outcome outcome) {
  return {outcome, Precision::time, 0, false};
}

// Offsets from UTC lie from -12:00 to +14:00.
constexpr int farthest_west = 12 * 60, farthest_east = 14 * 60;

// Hour, minute and second, and whether it is the first or the second half of
// the day.
inline bool read_clock(Cursor* c, int* hour, int* minute, double* second) {
  int whole = 0;
  double part = 0;
  if (c->digits(4, hour)) {  // 0730, 073015
    *minute = *hour % 100;
    *hour /= 100;
    if (c->digit_next() && !c->digits(2, &whole)) return false;
  } else {
    if (!c->digits(2, hour) && !c->digits(1, hour)) return false;
    if (c->take(':')) {
      if (!c->digits(2, minute)) return false;
      if (c->take(':')) {
        if (!c->digits(2, &whole)) return false;
        if ((c->take('.') || c->take(',')) && !c->fraction(&part)) return false;
      }
    }
  }
  *second = whole + part;
  return true;
}

// What may be the end of a span that starts at `start` minutes: a dash and a
// clock time of hours and minutes.
inline Span read_span(Cursor c, int start, bool spaced) {
  const bool long_dash = c.word("\xe2\x80\x93");
  if (!long_dash && !c.take('-')) return {};
  const bool apart = spaced && (c.peek() == ' ' || c.peek() == '\t');
  c.spaces();
  int hour = 0, minute = 0;
  if (!c.digits(2, &hour) && !c.digits(1, &hour)) return {};
  if (!c.take(':') || !c.digits(2, &minute) || !c.done()) return {};
  const int end = hour * 60 + minute;
  if (minute > 59 || end > 24 * 60) return {};
  return {start, end, 0, long_dash || apart || end > farthest_west};
}

// The clock time and what follows it; the date's seconds are in `m` already.
// Behind a "T" a dash can only be that of an offset.
inline Moment read_time(Cursor c, Moment m, bool behind_t = false) {
  const Moment not_a_date = failed(Outcome::not_a_date);
  int hour = 0, minute = 0;
  double second = 0;
  if (!read_clock(&c, &hour, &minute, &second)) return not_a_date;
  const bool spaced = c.peek() == ' ' || c.peek() == '\t';
  c.spaces();
  if (!behind_t && second == 0 && hour < 24 && minute < 60) {
    m.span = read_span(c, hour * 60 + minute, spaced);
    m.span.second = m.second + hour * 3600.0 + minute * 60.0;
    if (m.span.sure) {
      m.precision = Precision::time;
      m.second = m.span.second;
      return m;
    }
  }
  bool out_of_half = false;
  const bool morning = c.peek() == 'a' || c.peek() == 'A',
             evening = c.peek() == 'p' || c.peek() == 'P';
  if (morning || evening) {
    c.skip();
    c.take('.');
    if (!c.take('m') && !c.take('M')) return not_a_date;
    c.take('.');
    c.spaces();
    out_of_half = hour < 1 || hour > 12;
    hour = hour % 12 + (evening ? 12 : 0);
  }
  double offset = 0;
  if (c.take('Z') || c.word("UTC") || c.word("GMT")) {
    m.has_offset = true;
  } else if (c.peek() == '+' || c.peek() == '-') {
    const double sign = c.take('+') ? 1 : (c.take('-'), -1);
    int hours = 0, minutes = 0;
    if (!c.digits(2, &hours)) return not_a_date;
    if (c.take(':') || c.digit_next()) {
      if (!c.digits(2, &minutes)) return not_a_date;
    }
    const int size = hours * 60 + minutes;
    if (minutes > 59 || size > (sign > 0 ? farthest_east : farthest_west))
      return failed(Outcome::no_such_time);
    offset = sign * size * 60;
    m.has_offset = true;
  }
  if (!c.done()) return not_a_date;
  const bool end_of_day = hour == 24 && minute == 0 &&
                          second == 0;  // 24:00 is the next day's 00:00
  if (out_of_half || (hour > 23 && !end_of_day) || minute > 59 || second >= 60)
    return failed(Outcome::no_such_time);
  m.precision = Precision::time;
  m.end_of_day = end_of_day;
  m.second += hour * 3600.0 + minute * 60.0 + second - offset;
  return m;
}

inline Moment of_day(std::int64_t day, Precision precision) {
  return {Outcome::read, precision, static_cast<double>(day) * 86400.0, false};
}

}  // namespace detail

inline Moment read_moment(const char* text, std::size_t length) {
  using detail::of_day;
  const Moment not_a_date = {Outcome::not_a_date, Precision::day, 0, false};
  const Moment no_such_date = {Outcome::no_such_date, Precision::day, 0, false};
  const char* end = text + length;
  while (text != end && detail::is_space(*text)) ++text;
  while (text != end && detail::is_space(end[-1])) --end;
  if (text == end) return {Outcome::blank, Precision::day, 0, false};

  detail::Cursor c(text, end);
  int year = 0, month = 0, day = 0;
  if (!c.digits(4, &year)) return not_a_date;
  if (year == 0) return no_such_date;
  if (c.done()) return of_day(days_from_civil(year, 1, 1), Precision::year);
  if (c.take('-')) {
    if (c.take('W')) {
      int week = 0, wday = 1;
      if (!c.digits(2, &week)) return not_a_date;
      const bool to_the_day = c.take('-');
      if ((to_the_day && !c.digits(1, &wday)) || !c.done()) return not_a_date;
      const std::int64_t start = week < 1 ? 0 : iso_week_start(year, week);
      if (week < 1 || start >= iso_week_start(year + 1, 1) || wday < 1 ||
          wday > 7)
        return no_such_date;
      return of_day(start + wday - 1,
                    to_the_day ? Precision::day : Precision::week);
    }
    if (c.take('Q')) {
      int quarter = 0;
      if (!c.digits(1, &quarter) || !c.done()) return not_a_date;
      if (quarter < 1 || quarter > 4) return no_such_date;
      return of_day(days_from_civil(year, quarter * 3 - 2, 1),
                    Precision::quarter);
    }
    int day_of_year = 0;
    if (c.ends_after_digits(3) && c.digits(3, &day_of_year)) {
      if (day_of_year < 1 || day_of_year > 365 + is_leap(year))
        return no_such_date;
      return of_day(days_from_civil(year, 1, 1) + day_of_year - 1,
                    Precision::day);
    }
    if (!c.digits(2, &month)) return not_a_date;
    if (c.done()) {
      if (month < 1 || month > 12) return no_such_date;
      return of_day(days_from_civil(year, month, 1), Precision::month);
    }
    if (!c.take('-') || !c.digits(2, &day)) return not_a_date;
  } else if (!c.digits(2, &month) || !c.digits(2, &day)) {
    return not_a_date;
  }
  const bool behind_t = c.take('T'), timed = behind_t || c.take(' ');
  if (timed) c.spaces();
  if (!timed && !c.done()) return not_a_date;
  if (month < 1 || month > 12 || day < 1 || day > days_in_month(year, month))
    return no_such_date;
  const Moment date = of_day(days_from_civil(year, month, day), Precision::day);
  return timed ? detail::read_time(c, date, behind_t) : date;
}

}  // namespace backfill

#endif
