// The cadence: the regular steps at which something is expected to be recorded.
// A slot is one such step.
#ifndef BACKFILL_CADENCE_H
#define BACKFILL_CADENCE_H

#include <cmath>
#include <cstdint>

#include "calendar.h"
#include "clock.h"

namespace backfill {

enum class Steps {
  none = 0,     // irregular: no slots
  instant = 1,  // every so many seconds that pass
  local = 2,    // every so many seconds on the local clock
  calendar = 3  // every so many months
};

constexpr int every_weekday = 127;

struct Cadence {
  Steps steps = Steps::none;
  double length = 0;  // of a step in seconds, or in months for `calendar`
  double anchor = 0;  // where slot 0 starts: in seconds of the same clock, or
                      // in months since January 1970
  int weekdays = every_weekday;  // on which something is expected, one bit
                                 // each, Monday the lowest
  double offset = 0;  // of steps that are counted in seconds that pass: from
                      // them to the clock of the days

  // Steps of a day or shorter, which days off can leave out.
  bool of_days() const { return steps != Steps::calendar && length <= 86400; }

  // The day that a moment lies in, by the clock of the steps.
  std::int64_t day(double instant, double local) const {
    return day_of(steps == Steps::instant ? instant + offset : local);
  }

  bool expects(std::int64_t day) const {
    return weekdays == every_weekday || (weekdays >> (weekday(day) - 1) & 1);
  }

  std::int64_t slot(double instant, double local) const {
    if (steps == Steps::calendar) return month_slot(day_of(local));
    const double at = steps == Steps::instant ? instant : local;
    return floor_of((at - anchor) / length);
  }

  // The first slot that starts at this moment or later.
  std::int64_t next_slot(double instant, double local) const {
    if (steps == Steps::calendar)
      return month_slot(day_of(std::ceil(local / 86400.0) * 86400.0) - 1) + 1;
    const double at = steps == Steps::instant ? instant : local;
    return static_cast<std::int64_t>(std::ceil((at - anchor) / length));
  }

  // Where a slot starts, on the clock of its steps, of months on the local one.
  double start(std::int64_t slot) const {
    const double at = anchor + static_cast<double>(slot) * length;
    return steps == Steps::calendar
               ? 86400.0 * static_cast<double>(
                               month_start(static_cast<std::int64_t>(at)))
               : at;
  }

  // No step takes fewer seconds. Where the clock is put back, more seconds pass
  // than it shows.
  bool may_skip(double instants, double locals) const {
    return std::fmax(instants, locals) >= 1.5 * shortest();
  }
  double shortest() const {
    return steps == Steps::calendar ? 86400.0 * 28 * length : length;
  }

  // How many slots that are expected start from the slot `from` to before the
  // slot `to`.
  std::int64_t expected(std::int64_t from, std::int64_t to) const {
    if (weekdays == every_weekday) return to - from;
    // Only days have weekdays without a slot; whole weeks have as many as the
    // weekdays are.
    std::int64_t count = 0;
    const double start = anchor + static_cast<double>(from) * length;
    const std::int64_t first = day(start, start);
    for (std::int64_t day = first; day < first + (to - from) % 7; ++day)
      count += expects(day);
    for (int bit = 0; bit < 7; ++bit)
      count += (weekdays >> bit & 1) * ((to - from) / 7);
    return count;
  }

 private:
  std::int64_t month_slot(std::int64_t day) const {
    return floor_div(month_of(day) - static_cast<std::int64_t>(anchor),
                     static_cast<std::int64_t>(length));
  }
};

}  // namespace backfill

#endif
