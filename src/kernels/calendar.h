// The calendar's cut: time into numbered periods. Numbers run without a hole,
// so that "one period back" is a subtraction.
#ifndef BACKFILL_CALENDAR_H
#define BACKFILL_CALENDAR_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

#include "civil.h"
#include "clock.h"

namespace backfill {

// Months since January 1970.
inline std::int64_t month_of(std::int64_t day) {
  const Civil c = civil_from_days(day);
  return static_cast<std::int64_t>(c.year - 1970) * 12 + c.month - 1;
}

inline std::int64_t month_start(std::int64_t month) {
  const std::int64_t years = floor_div(month, 12);
  return days_from_civil(static_cast<int>(1970 + years),
                         static_cast<int>(month - years * 12) + 1, 1);
}

// The same date some months earlier; where the month has no such day its last:
// 28 February for the 29th.
inline std::int64_t months_back(std::int64_t day, std::int64_t months) {
  const Civil from = civil_from_days(day);
  const Civil to = civil_from_days(month_start(month_of(day) - months));
  const int last = days_in_month(to.year, to.month);
  return days_from_civil(to.year, to.month, from.day < last ? from.day : last);
}

// The days on which something is open: some weekdays, without holidays. They
// are counted from 1970-01-01 on.
class OpenDays {
 public:
  // `weekdays` has a bit for each, Monday the lowest.
  OpenDays(int weekdays, const std::vector<std::int64_t>& holidays)
      : weekdays_(weekdays) {
    for (int bit = 0; bit < 7; ++bit) per_week_ += weekdays >> bit & 1;
    for (const std::int64_t day : holidays) {
      if (on_weekday(day)) holidays_.push_back(day);
    }
    std::sort(holidays_.begin(), holidays_.end());
    holidays_.erase(std::unique(holidays_.begin(), holidays_.end()),
                    holidays_.end());
    at_zero_ = from_far_back(0);
  }

  bool open(std::int64_t day) const {
    return on_weekday(day) &&
           !std::binary_search(holidays_.begin(), holidays_.end(), day);
  }

  // How many lie before a day; for a day that is not open that is the number of
  // the next one that is.
  std::int64_t before(std::int64_t day) const {
    return from_far_back(day) - at_zero_;
  }

  // The open day of which `count` lie before it.
  std::int64_t day_of(std::int64_t count) const {
    const std::int64_t about = floor_div(count * 7, per_week_);
    const std::int64_t margin =
        14 + 7 * static_cast<std::int64_t>(holidays_.size());
    std::int64_t low = about - margin, high = about + margin;
    while (low < high) {
      const std::int64_t middle = low + floor_div(high - low, 2);
      if (before(middle + 1) > count) {
        high = middle;
      } else {
        low = middle + 1;
      }
    }
    return low;
  }

 private:
  bool on_weekday(std::int64_t day) const {
    return weekdays_ >> (weekday(day) - 1) & 1;
  }

  // From a Monday of which only differences matter.
  std::int64_t from_far_back(std::int64_t day) const {
    const std::int64_t weeks = floor_div(day + 3, 7);
    std::int64_t count = weeks * per_week_;
    for (int bit = 0; bit < static_cast<int>(day + 3 - weeks * 7); ++bit)
      count += weekdays_ >> bit & 1;
    return count - (std::lower_bound(holidays_.begin(), holidays_.end(), day) -
                    holidays_.begin());
  }

  int weekdays_;
  int per_week_ = 0;
  std::int64_t at_zero_ = 0;
  std::vector<std::int64_t> holidays_;
};

// Months of whole weeks, numbered as those of the civil calendar that they
// stand for. Each, or with a pattern each year, starts with the last week that
// starts up to `reach` days after the 1st of its month.
struct WeekMonths {
  int week_start = 1;
  int reach = 0;
  // The weeks of the three months of a quarter, or zeros; a 53rd week belongs
  // to the last month of its year, which starts in `year_start`.
  int pattern[3] = {0, 0, 0};
  int year_start = 1;

  std::int64_t start(std::int64_t month) const {
    if (pattern[0] == 0) return first_week(month);
    const std::int64_t years = floor_div(month - (year_start - 1), 12);
    const std::int64_t first = years * 12 + year_start - 1;
    const auto place = static_cast<int>(month - first);
    int weeks = place / 3 * 13;
    for (int i = 0; i < place % 3; ++i) weeks += pattern[i];
    return first_week(first) + 7 * weeks;
  }

  // None starts as much as a month away from that which it stands for.
  std::int64_t of(std::int64_t day) const {
    std::int64_t month = month_of(day) + 1;
    while (start(month) > day) --month;
    return month;
  }

 private:
  std::int64_t first_week(std::int64_t month) const {
    const std::int64_t last = month_start(month) + reach;
    return last - (weekday(last) - week_start + 7) % 7;
  }
};

// What periods are made of.
enum class Base {
  clock = 0,
  day = 1,
  month = 2,
  third = 3,
  open_day = 4,
  week_month = 5
};

// Periods of `count` bases each, one of which starts at the base numbered
// `origin`. A third is ten days of a month, the last what is left of it; a day
// that is not open belongs to the next open one. Bases of the clock are
// seconds.
struct Calendar {
  Base base;
  std::int64_t count;
  std::int64_t origin;
  OpenDays open;
  WeekMonths weeks;

  std::int64_t number_of_base(std::int64_t index) const {
    return floor_div(index - origin, count);
  }

  // The period that holds a day, and the first day of a period (of open days,
  // the first that is open).
  std::int64_t number(std::int64_t day) const {
    return number_of_base(base_of(day));
  }
  std::int64_t start(std::int64_t number) const {
    const std::int64_t index = number * count + origin;
    switch (base) {
      case Base::month:
        return month_start(index);
      case Base::third: {
        const std::int64_t month = floor_div(index, 3);
        return month_start(month) + 10 * (index - month * 3);
      }
      case Base::open_day:
        return open.day_of(index);
      case Base::week_month:
        return weeks.start(index);
      default:
        return index;
    }
  }

 private:
  std::int64_t base_of(std::int64_t day) const {
    switch (base) {
      case Base::month:
        return month_of(day);
      case Base::third: {
        const int third = (civil_from_days(day).day - 1) / 10;
        return month_of(day) * 3 + (third < 2 ? third : 2);
      }
      case Base::open_day:
        return open.before(day);
      case Base::week_month:
        return weeks.of(day);
      default:
        return day;
    }
  }
};

// A calendar laid over the instants of a zone. Of days and longer the local
// clock decides; `shifts` is the table of offsets by which periods of the clock
// are cut: the zone's own where they are kept by the local clock, none where
// they are counted in seconds that pass, and, for those of up to an hour, one
// that starts a new period wherever the zone's offset changes.
class Cut {
 public:
  Cut(const Calendar& calendar, Clock local, const double* shift_from,
      const double* shift, std::size_t n)
      : calendar_(calendar),
        local_(local),
        shifted_(shift_from, shift, n),
        from_(shift_from),
        shift_(shift),
        n_(n) {}

  const Calendar& calendar() const { return calendar_; }
  bool by_clock() const { return calendar_.base == Base::clock; }

  std::int64_t number(double instant) {
    if (by_clock()) return clock_number(shifted_.local_second(instant));
    return calendar_.number(day_of(local_.local_second(instant)));
  }

  // Of periods of the clock: the first instant that is not before the period.
  double start(std::int64_t number) const {
    const double second =
        static_cast<double>(number * calendar_.count + calendar_.origin);
    for (std::size_t i = 0; i + 1 < n_; ++i) {
      if (from_[i + 1] + shift_[i] > second)
        return std::max(from_[i], second - shift_[i]);
    }
    return std::max(from_[n_ - 1], second - shift_[n_ - 1]);
  }

 private:
  std::int64_t clock_number(double shifted) const {
    return floor_of((shifted - static_cast<double>(calendar_.origin)) /
                    static_cast<double>(calendar_.count));
  }

  Calendar calendar_;
  Clock local_, shifted_;
  const double* from_;
  const double* shift_;
  std::size_t n_;
};

}  // namespace backfill

#endif
