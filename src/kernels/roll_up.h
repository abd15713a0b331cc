// The roll-up: one pass over the records of one measure, in any order, into a
// dense table of series by periods.
#ifndef BACKFILL_ROLL_UP_H
#define BACKFILL_ROLL_UP_H

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <vector>

#include "accumulate.h"
#include "calendar.h"
#include "moments.h"
#include "lots.h"
#include "slots.h"

namespace backfill {

// The table's columns, one for each of `count` periods from number `first` on.
// For days and longer the column of each local day is looked up, so that the
// calendar's arithmetic is paid once a day and not once a record.
class Columns {
 public:
  Columns(const Cut& cut, std::int64_t first, std::size_t count,
          std::int64_t first_day, std::int64_t last_day)
      : cut_(cut),
        by_clock_(cut.by_clock()),
        first_(first),
        count_(count),
        first_day_(first_day) {
    const Calendar& calendar = cut.calendar();
    for (std::int64_t day = first_day; day <= last_day; ++day) {
      if (!by_clock_)
        of_day_.push_back(
            {static_cast<std::int32_t>(calendar.number(day) - first), 0, 0});
      open_.push_back(calendar.open.open(day));
    }
    for (std::size_t i = 1; i < of_day_.size(); ++i) {
      const bool same = of_day_[i].column == of_day_[i - 1].column;
      of_day_[i].first =
          same ? of_day_[i - 1].first : static_cast<std::int32_t>(i);
    }
    std::int32_t end = static_cast<std::int32_t>(of_day_.size());
    for (std::size_t i = of_day_.size(); i-- > 0;) {
      of_day_[i].end = end;
      if (of_day_[i].first == static_cast<std::int32_t>(i))
        end = of_day_[i].first;
    }
  }
  std::size_t count() const { return count_; }
  std::size_t of(const TimedMoment& moment) {
    if (by_clock_)
      return static_cast<std::size_t>(cut_.number(moment.instant) - first_);
    return static_cast<std::size_t>(
        of_day_[static_cast<std::size_t>(moment.day() - first_day_)].column);
  }
  // The same, to be asked in_latest() of the moments that follow.
  std::size_t latest(const TimedMoment& moment) {
    if (!by_clock_) {
      const Day& day =
          of_day_[static_cast<std::size_t>(moment.day() - first_day_)];
      from_ = static_cast<double>(first_day_ + day.first) * 86400.0;
      to_ = static_cast<double>(first_day_ + day.end) * 86400.0;
    }
    return of(moment);
  }
  // Whether it is known, without a look, to be in the latest column.
  bool in_latest(const TimedMoment& moment) const {
    return moment.local >= from_ && moment.local < to_;
  }
  bool open(std::int64_t day) const {
    return open_[static_cast<std::size_t>(day - first_day_)];
  }

 private:
  // The column of a day, and the days of that column, counted from the first.
  struct Day {
    std::int32_t column, first, end;
  };

  Cut cut_;
  bool by_clock_;
  std::int64_t first_;
  std::size_t count_;
  std::int64_t first_day_;
  std::vector<Day> of_day_;
  std::vector<unsigned char> open_;
  double from_ = std::numeric_limits<double>::infinity();  // local seconds of
                                                           // the latest column
  double to_ = from_;
};

// Asks for memory that will be needed soon.
inline void fetch(const void* at) {
#if defined(__GNUC__)
  __builtin_prefetch(at, 1);
#else
  static_cast<void>(at);
#endif
}

// Cells (Totals or Statistics) lie series by series, in the order of periods.
// `slotted` has an element for each series; `records` is how many there will
// be.
template <typename Cell>
class RollUp {
 public:
  RollUp(const Columns& columns, Clock clock,
         const std::vector<Slotted>& slotted, std::size_t records)
      : columns_(columns),
        clock_(clock),
        slotted_(slotted),
        seen_(slotted, clock, records),
        any_slots_(std::any_of(
            slotted.begin(), slotted.end(),
            [](const Slotted& s) { return s.cadence.steps != Steps::none; })),
        cells_(slotted.size() * columns.count()) {}

  // `series` counts from 1, as R does; a value that is NaN is no record.
  void add(const Times& times, const std::int32_t* series,
           const double* value) {
    with_moments(times, clock_, [&](auto moments) {
      share_out(series, times.n, slotted_.size(), [=](Lot lot) {
        add_lot(moments, times.n, series, value, lot);
      });
    });
  }

  const std::vector<Cell>& cells() const { return cells_; }

 private:
  // On days that are not open nothing is expected, unless it comes once a week
  // or less often.
  bool fills_slot(std::size_t row, const TimedMoment& moment) {
    const Cadence& cadence = slotted_[row].cadence;
    if (cadence.steps == Steps::none) return false;
    return cadence.expects(cadence.day(moment.instant, moment.local)) &&
           (!cadence.of_days() || columns_.open(moment.day())) &&
           seen_.insert(row, cadence.slot(moment.instant, moment.local));
  }

  // Rows of one series, probably in order of time: a cell is kept at hand as
  // long as it is the next record's too.
  template <bool with_slots, typename Moments>
  void add_run(Moments& moments, std::size_t i, std::size_t end, std::size_t s,
               const double* value, Columns& columns) {
    Cell* const cells = cells_.data() + s * columns_.count();
    TimedMoment now = moments[i];
    while (i < end) {
      Cell& cell = cells[columns.latest(now)];
      Cell here = cell;
      do {
        if (!std::isnan(value[i])) {
          here.add(value[i], now.instant);
          if (with_slots && fills_slot(s, now)) ++here.slots;
        }
        if (++i == end) break;
        now = moments[i];
      } while (columns.in_latest(now));
      cell = here;
    }
  }

  template <typename Moments>
  void add_lot(Moments moments, std::size_t n, const std::int32_t* series,
               const double* value, Lot lot) {
    const std::size_t count = columns_.count();
    Columns columns = columns_;
    Cell* const cells = cells_.data();
    const bool any_slots = any_slots_;
    LotRows rows;
    std::array<TimedMoment, rows_at_a_time> moment;
    std::array<std::size_t, rows_at_a_time> cell;
    for (std::size_t from = 0; from < n; from += rows_at_a_time) {
      const std::size_t size = std::min(rows_at_a_time, n - from);
      rows.look(series + from, size, lot);
      if (rows.count == 0) continue;
      if (rows.one_series) {
        const std::size_t s = static_cast<std::size_t>(series[from] - 1);
        // Without slots to look after, the loop is short enough to stay in the
        // processor's registers.
        if (any_slots) {
          add_run<true>(moments, from, from + size, s, value, columns);
        } else {
          add_run<false>(moments, from, from + size, s, value, columns);
        }
        continue;
      }
      // Else all cells of the block are asked for first, so that memory brings
      // them while others are at work.
      for (std::size_t k = 0; k < rows.count; ++k) {
        const std::size_t i = from + rows.row[k];
        moment[k] = moments[i];
        cell[k] = static_cast<std::size_t>(series[i] - 1) * count +
                  columns.of(moment[k]);
        fetch(&cells[cell[k]]);
      }
      for (std::size_t k = 0; k < rows.count; ++k) {
        const std::size_t i = from + rows.row[k];
        if (std::isnan(value[i])) continue;
        Cell& here = cells[cell[k]];
        here.add(value[i], moment[k].instant);
        if (any_slots &&
            fills_slot(static_cast<std::size_t>(series[i] - 1), moment[k]))
          ++here.slots;
      }
    }
  }

  Columns columns_;
  Clock clock_;
  std::vector<Slotted> slotted_;
  SlotSet seen_;
  bool any_slots_;
  std::vector<Cell> cells_;
};

// The cells of each group of series (counted from 1) merged, in the order of
// the series.
template <typename Cell>
std::vector<Cell> merge_series(const std::vector<Cell>& cells,
                               const std::vector<std::int32_t>& group,
                               std::size_t groups) {
  const std::size_t columns = cells.size() / group.size();
  std::vector<Cell> out(groups * columns);
  for (std::size_t s = 0; s < group.size(); ++s) {
    for (std::size_t j = 0; j < columns; ++j) {
      out[static_cast<std::size_t>(group[s] - 1) * columns + j].add(
          cells[s * columns + j]);
    }
  }
  return out;
}

}  // namespace backfill

#endif
