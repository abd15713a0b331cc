// The roll-up: one pass over the records of one measure, in any order, into a dense table of series by periods.
#ifndef BACKFILL_ROLL_UP_H
#define BACKFILL_ROLL_UP_H

#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "accumulate.h"
#include "clock.h"
#include "period.h"
#include "slots.h"

namespace backfill {

// The periods that the records reach, and the table's row for each day among them, so that the calendar's arithmetic is
// paid once a day and not once a record.
class Columns {
 public:
  Columns(Unit unit, std::int64_t first_day, std::int64_t last_day)
      : first_(period_number(unit, first_day)), first_day_(first_day) {
    of_day_.reserve(static_cast<std::size_t>(last_day - first_day + 1));
    for (std::int64_t day = first_day; day <= last_day; ++day) {
      of_day_.push_back(static_cast<std::int32_t>(period_number(unit, day) - first_));
    }
  }
  std::int64_t first() const { return first_; }
  std::size_t count() const { return static_cast<std::size_t>(of_day_.back()) + 1; }
  std::size_t of_day(std::int64_t day) const {
    return static_cast<std::size_t>(of_day_[static_cast<std::size_t>(day - first_day_)]);
  }

 private:
  std::int64_t first_;
  std::int64_t first_day_;
  std::vector<std::int32_t> of_day_;
};

// `series` counts from 1, as R does; a value that is NaN is no record. Cells lie series by series, in the order of
// periods. `slotted` has an element for each series.
inline std::vector<Accumulator> roll_up(const Times& times, Clock clock, const std::int32_t* series,
                                        const double* value, const Columns& columns,
                                        const std::vector<Slotted>& slotted) {
  std::vector<Accumulator> cells(slotted.size() * columns.count());
  SlotSet seen(slotted, clock);
  for (std::size_t i = 0; i < times.n; ++i) {
    if (std::isnan(value[i])) continue;
    const double instant = times[i];
    const double local = clock.local_second(instant);
    const std::size_t row = static_cast<std::size_t>(series[i] - 1);
    const std::int64_t day = day_of(local);
    Accumulator& cell = cells[row * columns.count() + columns.of_day(day)];
    cell.sum.add(value[i]);
    ++cell.records;
    const Cadence& cadence = slotted[row].cadence;
    if (cadence.steps != Steps::none && cadence.expects(day) && seen.insert(row, cadence.slot(instant, local))) {
      ++cell.slots;
    }
  }
  return cells;
}

}  // namespace backfill

#endif
