// The roll-up: one pass over the records of one measure, in any order, into a dense table of series by periods.
#ifndef BACKFILL_ROLL_UP_H
#define BACKFILL_ROLL_UP_H

#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "accumulate.h"
#include "calendar.h"
#include "moments.h"
#include "slots.h"

namespace backfill {

// The table's columns, one for each of `count` periods from number `first` on. For days and longer the column of each
// local day is looked up, so that the calendar's arithmetic is paid once a day and not once a record.
class Columns {
 public:
  Columns(const Cut& cut, std::int64_t first, std::size_t count, std::int64_t first_day, std::int64_t last_day)
      : cut_(cut), by_clock_(cut.by_clock()), first_(first), count_(count), first_day_(first_day) {
    const Calendar& calendar = cut.calendar();
    for (std::int64_t day = first_day; day <= last_day; ++day) {
      if (!by_clock_) of_day_.push_back(static_cast<std::int32_t>(calendar.number(day) - first));
      open_.push_back(calendar.open.open(day));
    }
  }
  std::size_t count() const { return count_; }
  std::size_t operator()(const Moment& moment) {
    if (by_clock_) return static_cast<std::size_t>(cut_.number(moment.instant) - first_);
    return static_cast<std::size_t>(of_day_[static_cast<std::size_t>(moment.day - first_day_)]);
  }
  bool open(std::int64_t day) const { return open_[static_cast<std::size_t>(day - first_day_)]; }

 private:
  Cut cut_;
  bool by_clock_;
  std::int64_t first_;
  std::size_t count_;
  std::int64_t first_day_;
  std::vector<std::int32_t> of_day_;
  std::vector<unsigned char> open_;
};

// `series` counts from 1, as R does; a value that is NaN is no record. Cells (Totals or Statistics) lie series by
// series, in the order of periods. `slotted` has an element for each series.
template <typename Cell>
std::vector<Cell> roll_up(const Times& times, Clock clock, const std::int32_t* series, const double* value,
                          Columns columns, const std::vector<Slotted>& slotted) {
  std::vector<Cell> cells(slotted.size() * columns.count());
  SlotSet seen(slotted, clock, times.n);
  with_moments(times, clock, [&](auto moments) {
    for (std::size_t i = 0; i < times.n; ++i) {
      if (std::isnan(value[i])) continue;
      const Moment moment = moments[i];
      const std::size_t row = static_cast<std::size_t>(series[i] - 1);
      Cell& cell = cells[row * columns.count() + columns(moment)];
      cell.add(value[i], moment.instant);
      const Cadence& cadence = slotted[row].cadence;
      // On days that are not open nothing is expected, unless it comes once a week or less often.
      if (cadence.steps != Steps::none && cadence.expects(moment.day) &&
          (!cadence.of_days() || columns.open(moment.day)) &&
          seen.insert(row, cadence.slot(moment.instant, moment.local))) {
        ++cell.slots;
      }
    }
  });
  return cells;
}

// The cells of each group of series (counted from 1) merged, in the order of the series.
template <typename Cell>
std::vector<Cell> merge_series(const std::vector<Cell>& cells, const std::vector<std::int32_t>& group,
                               std::size_t groups) {
  const std::size_t columns = cells.size() / group.size();
  std::vector<Cell> out(groups * columns);
  for (std::size_t s = 0; s < group.size(); ++s) {
    for (std::size_t j = 0; j < columns; ++j) {
      out[static_cast<std::size_t>(group[s] - 1) * columns + j].add(cells[s * columns + j]);
    }
  }
  return out;
}

}  // namespace backfill

#endif
