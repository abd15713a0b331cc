// The cadence: the regular steps at which something is expected to be recorded. A slot is one such step.
#ifndef BACKFILL_CADENCE_H
#define BACKFILL_CADENCE_H

#include <array>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <numeric>
#include <vector>

#include "clock.h"
#include "period.h"

namespace backfill {

enum class Steps {
  none = 0,     // irregular: no slots
  instant = 1,  // every so many seconds that pass
  local = 2,    // every so many seconds on the local clock
  calendar = 3  // every month, quarter or year
};

struct Cadence {
  Steps steps;
  double length;  // of a step in seconds, for `instant` and `local`
  double anchor;  // where slot 0 starts, on the same clock
  Unit unit;      // for `calendar`
  int weekdays;   // on which something is expected, one bit each, Monday the lowest; 127 is every day

  bool expects(double local) const { return weekdays == 127 || (weekdays >> (weekday(day_of(local)) - 1) & 1); }

  std::int64_t slot(double instant, double local) const {
    if (steps == Steps::calendar) return period_number(unit, day_of(local));
    const double at = steps == Steps::instant ? instant : local;
    return static_cast<std::int64_t>(std::floor((at - anchor) / length));
  }
};

// What the local times of the records have in common, found in one pass and whatever their order.
struct Survey {
  double lowest = std::numeric_limits<double>::infinity();    // instant
  double highest = -std::numeric_limits<double>::infinity();  // instant
  double anchor = 0;            // local second of the first record in file order
  std::int64_t step = 0;        // greatest common divisor of the distances in seconds; 0 where all are the same
  bool whole_seconds = true;
  bool month_starts = true;     // each at 00:00 on the first of a month
  bool month_ends = true;       // each at 00:00 on the last day of a month
  std::int64_t months = 0;      // greatest common divisor of the distances in months
};

inline Survey survey(const Times& times, Clock clock) {
  Survey s;
  std::int64_t first_month = 0;
  for (std::size_t i = 0; i < times.n; ++i) {
    const double instant = times[i];
    if (instant < s.lowest) s.lowest = instant;
    if (instant > s.highest) s.highest = instant;
    const double local = clock.local_second(instant);
    if (i == 0) s.anchor = local;
    const double distance = local - s.anchor;
    if (local != std::floor(local)) s.whole_seconds = false;
    if (s.whole_seconds) {
      const std::int64_t d = static_cast<std::int64_t>(std::fabs(distance));
      if (s.step == 0 || d % s.step != 0) s.step = std::gcd(s.step, d);
    }
    if (s.month_starts || s.month_ends) {
      const std::int64_t day = day_of(local);
      const bool midnight = local == static_cast<double>(day) * 86400.0;
      const Civil c = civil_from_days(day);
      s.month_starts = s.month_starts && midnight && c.day == 1;
      s.month_ends = s.month_ends && midnight && c.day == days_in_month(c.year, c.month);
      const std::int64_t month = period_number(Unit::month, day);
      if (i == 0) first_month = month;
      s.months = std::gcd(s.months, month - first_month);
    }
  }
  return s;
}

// One bit for each slot of each series, for the slots that instants from `lowest` to `highest` can fall into.
class SlotSet {
 public:
  SlotSet() = default;
  SlotSet(std::size_t series, const Cadence& cadence, double lowest, double highest, Clock clock) {
    // Where the local clock is put back, a later instant may lie in an earlier slot: at most a day's worth of hours.
    const std::int64_t margin = cadence.steps == Steps::local ? 24 : 0;
    first_ = cadence.slot(lowest, clock.local_second(lowest)) - margin;
    width_ = static_cast<std::size_t>(cadence.slot(highest, clock.local_second(highest)) + margin - first_ + 1);
    bits_.resize((series * width_ + 63) / 64);
  }

  // True where the slot was not in the set yet.
  bool insert(std::size_t series, std::int64_t slot) {
    const std::size_t at = series * width_ + static_cast<std::size_t>(slot - first_);
    const std::uint64_t bit = std::uint64_t{1} << (at & 63);
    std::uint64_t& word = bits_[at >> 6];
    if (word & bit) return false;
    word |= bit;
    return true;
  }

 private:
  std::int64_t first_ = 0;
  std::size_t width_ = 0;
  std::vector<std::uint64_t> bits_;
};

// How many distinct slots the records fill, by the weekday of their record (Monday first).
inline std::array<std::int64_t, 7> filled_slots(const Times& times, Clock clock, const Cadence& cadence, double lowest,
                                                double highest) {
  std::array<std::int64_t, 7> filled{};
  SlotSet seen(1, cadence, lowest, highest, clock);
  for (std::size_t i = 0; i < times.n; ++i) {
    const double local = clock.local_second(times[i]);
    if (seen.insert(0, cadence.slot(times[i], local))) ++filled[static_cast<std::size_t>(weekday(day_of(local)) - 1)];
  }
  return filled;
}

}  // namespace backfill

#endif
