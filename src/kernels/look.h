// What looks odd in records, in one pass over the rows in order of series and
// time.
#ifndef BACKFILL_LOOK_H
#define BACKFILL_LOOK_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "cadence.h"
#include "clock.h"

namespace backfill {

// Rows in order: `row[i]` is the i-th of them. Rows and series are counted from
// 1, as R does.
struct SortedRows {
  const std::int32_t* row;
  const std::int32_t* series;
  std::size_t n;

  std::size_t at(std::size_t i) const {
    return static_cast<std::size_t>(row[i] - 1);
  }
};

// A row of a series and the next, with slots of the series' cadence between
// them that have none.
struct Gap {
  std::int32_t after;  // rows, counted from 1
  std::int32_t before;
  std::int64_t missing;
};

// `cadence` has one for each series.
inline std::vector<Gap> find_gaps(const Times& times, Clock clock,
                                  const SortedRows& rows,
                                  const std::vector<Cadence>& cadence) {
  std::vector<Gap> out;
  double instant = 0, local = 0;
  for (std::size_t i = 0; i < rows.n; ++i) {
    const std::size_t row = rows.at(i);
    const double last_instant = instant, last_local = local;
    instant = times[row];
    local = clock.local_second(instant);
    if (i == 0 || rows.series[row] != rows.series[rows.at(i - 1)]) continue;
    const Cadence& c = cadence[static_cast<std::size_t>(rows.series[row] - 1)];
    // A look at the slots of those only that can be far from each other.
    if (c.steps == Steps::none ||
        !c.may_skip(instant - last_instant, local - last_local))
      continue;
    const std::int64_t missing = c.expected(
        c.slot(last_instant, last_local) + 1, c.slot(instant, local));
    if (missing > 0) out.push_back({rows.row[i - 1], rows.row[i], missing});
  }
  return out;
}

// The lowest and the highest of values between two bounds, how often each
// stands, and the ones next to them; NaN where there is none.
struct Extremes {
  double low = NAN, high = NAN, next_low = NAN, next_high = NAN;
  std::size_t at_low = 0, at_high = 0;
};

inline Extremes find_extremes(const double* value, std::size_t n, double above,
                              double below) {
  Extremes out;
  for (std::size_t i = 0; i < n; ++i) {
    const double x = value[i];
    if (!(x > above && x < below)) continue;
    if (x == out.low) {
      ++out.at_low;
    } else if (!(x > out.low)) {
      out.next_low = out.low;
      out.low = x;
      out.at_low = 1;
    } else if (!(x >= out.next_low)) {
      out.next_low = x;
    }
    if (x == out.high) {
      ++out.at_high;
    } else if (!(x < out.high)) {
      out.next_high = out.high;
      out.high = x;
      out.at_high = 1;
    } else if (!(x <= out.next_high)) {
      out.next_high = x;
    }
  }
  return out;
}

// Of values that are not NaN.
struct ValueLook {
  std::size_t negatives = 0;
  std::size_t falls = 0;  // below the value before it in its series
  std::vector<std::int32_t> zero_series;  // of which every value is 0
  // Runs of one value other than 0 in a series: the longest (the first of
  // several), how many there are, and how many values stand in them.
  double longest_value = 0;
  std::size_t longest = 0, runs = 0, in_runs = 0;
};

inline ValueLook look_at_values(const double* value, const SortedRows& rows) {
  ValueLook out;
  bool any = false, all_zero = false;
  double last = 0;
  std::int32_t series = 0;
  std::size_t run = 0;
  const auto end_run = [&] {
    if (run == 0 || last == 0) return;
    ++out.runs;
    out.in_runs += run;
    if (run > out.longest) {
      out.longest = run;
      out.longest_value = last;
    }
  };
  const auto end_series = [&] {
    end_run();
    if (any && all_zero) out.zero_series.push_back(series);
  };
  for (std::size_t i = 0; i < rows.n; ++i) {
    const std::size_t row = rows.at(i);
    const double x = value[row];
    if (std::isnan(x)) continue;
    out.negatives += x < 0;
    if (!any || rows.series[row] != series) {
      end_series();
      series = rows.series[row];
      any = all_zero = true;
      run = 0;
    } else {
      out.falls += x < last;
      if (x != last) {
        end_run();
        run = 0;
      }
    }
    all_zero = all_zero && x == 0;
    ++run;
    last = x;
  }
  end_series();
  return out;
}

}  // namespace backfill

#endif
