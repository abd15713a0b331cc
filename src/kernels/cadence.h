// The cadence: the regular steps at which something is expected to be recorded. A slot is one such step.
#ifndef BACKFILL_CADENCE_H
#define BACKFILL_CADENCE_H

#include <cmath>
#include <cstdint>

#include "clock.h"
#include "period.h"

namespace backfill {

enum class Steps {
  none = 0,     // irregular: no slots
  instant = 1,  // every so many seconds that pass
  local = 2,    // every so many seconds on the local clock
  calendar = 3  // every month, quarter or year
};

constexpr int every_weekday = 127;

struct Cadence {
  Steps steps = Steps::none;
  double length = 0;             // of a step in seconds, for `instant` and `local`
  double anchor = 0;             // where slot 0 starts, on the same clock
  Unit unit = Unit::day;         // for `calendar`
  int weekdays = every_weekday;  // on which something is expected, one bit each, Monday the lowest

  bool expects(std::int64_t day) const { return weekdays >> (weekday(day) - 1) & 1; }

  std::int64_t slot(double instant, double local) const {
    if (steps == Steps::calendar) return period_number(unit, day_of(local));
    const double at = steps == Steps::instant ? instant : local;
    return static_cast<std::int64_t>(std::floor((at - anchor) / length));
  }

  // The first slot that starts at this moment or later.
  std::int64_t next_slot(double instant, double local) const {
    if (steps == Steps::calendar) return period_number(unit, day_of(std::ceil(local / 86400.0) * 86400.0) - 1) + 1;
    const double at = steps == Steps::instant ? instant : local;
    return static_cast<std::int64_t>(std::ceil((at - anchor) / length));
  }

  // The seconds of a step, a month's or a year's at their shortest.
  double shortest() const {
    if (steps != Steps::calendar) return length;
    return 86400.0 * (unit == Unit::month ? 28 : unit == Unit::quarter ? 90 : 365);
  }

  // How many slots that are expected start from the slot `from` to before the slot `to`.
  std::int64_t expected(std::int64_t from, std::int64_t to) const {
    if (weekdays == every_weekday) return to - from;
    // Only days have weekdays without a slot; whole weeks have as many as the weekdays are.
    std::int64_t count = 0;
    const std::int64_t first = day_of(anchor + static_cast<double>(from) * length);
    for (std::int64_t day = first; day < first + (to - from) % 7; ++day) count += expects(day);
    for (int bit = 0; bit < 7; ++bit) count += (weekdays >> bit & 1) * ((to - from) / 7);
    return count;
  }
};

}  // namespace backfill

#endif
