// What looks odd in records, in one pass over the rows in order of series and time.
#ifndef BACKFILL_LOOK_H
#define BACKFILL_LOOK_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "clock.h"

namespace backfill {

// Rows in order: `row[i]` is the i-th of them. Rows and series are counted from 1, as R does.
struct SortedRows {
  const std::int32_t* row;
  const std::int32_t* series;
  std::size_t n;

  std::size_t at(std::size_t i) const { return static_cast<std::size_t>(row[i] - 1); }
};

// Places i in the order where the local clock shows more than `seconds` between row i and the next of its series.
inline std::vector<std::size_t> far_neighbours(const Times& times, Clock clock, const SortedRows& rows, double seconds) {
  std::vector<std::size_t> out;
  double last = 0;
  for (std::size_t i = 0; i < rows.n; ++i) {
    const double local = clock.local_second(times[rows.at(i)]);
    if (i > 0 && rows.series[rows.at(i)] == rows.series[rows.at(i - 1)] && local - last > seconds) out.push_back(i - 1);
    last = local;
  }
  return out;
}

// A number that may stand for a missing value, with the range of all other values and zero.
struct CodeLook {
  double code;
  std::size_t count = 0;
  double lowest = 0, highest = 0;
};

// Of values that are not NaN.
struct ValueLook {
  std::size_t values = 0, negatives = 0;
  std::size_t falls = 0;  // below the value before it in its series
  std::vector<std::int32_t> zero_series;  // of which every value is 0
  // Runs of one value other than 0 in a series: the longest (the first of several), how many there are, and how many
  // values stand in them.
  double longest_value = 0;
  std::size_t longest = 0, runs = 0, in_runs = 0;
};

inline ValueLook look_at_values(const double* value, const SortedRows& rows, std::vector<CodeLook>* codes) {
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
    ++out.values;
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
    for (CodeLook& code : *codes) code.count += x == code.code;
  }
  end_series();
  for (CodeLook& code : *codes) {
    if (code.count == 0) continue;
    for (std::size_t i = 0; i < rows.n; ++i) {
      const double x = value[rows.at(i)];
      if (x == code.code) continue;
      if (x < code.lowest) code.lowest = x;
      if (x > code.highest) code.highest = x;
    }
  }
  return out;
}

}  // namespace backfill

#endif
