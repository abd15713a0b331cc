// The roll-up: one pass over the records of one measure, in any order, into a dense table of series by periods.
#ifndef BACKFILL_ROLL_UP_H
#define BACKFILL_ROLL_UP_H

#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "accumulate.h"
#include "cadence.h"
#include "clock.h"
#include "period.h"

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
// periods. `lowest` and `highest` are the first and the last instant of all records, those without a value included.
inline std::vector<Accumulator> roll_up(const Times& times, Clock clock, const std::int32_t* series,
                                        std::size_t series_count, const double* value, const Columns& columns,
                                        const Cadence& cadence, double lowest, double highest) {
  std::vector<Accumulator> cells(series_count * columns.count());
  const bool slotted = cadence.steps != Steps::none;
  SlotSet seen = slotted ? SlotSet(series_count, cadence, lowest, highest, clock) : SlotSet();
  for (std::size_t i = 0; i < times.n; ++i) {
    if (std::isnan(value[i])) continue;
    const double instant = times[i];
    const double local = clock.local_second(instant);
    const std::size_t row = static_cast<std::size_t>(series[i] - 1);
    Accumulator& cell = cells[row * columns.count() + columns.of_day(day_of(local))];
    cell.sum.add(value[i]);
    ++cell.records;
    if (slotted && cadence.expects(local) && seen.insert(row, cadence.slot(instant, local))) ++cell.slots;
  }
  return cells;
}

}  // namespace backfill

#endif
