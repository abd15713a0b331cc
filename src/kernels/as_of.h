// What was known on a day: of the rows published by then the one of the latest
// period, in its latest version.
#ifndef BACKFILL_AS_OF_H
#define BACKFILL_AS_OF_H

#include <cmath>
#include <cstddef>
#include <map>

namespace backfill {

// Rows `from` to before `to` come in order of `known`, of one day in order of
// their versions; `days` rise. A version without a value (NaN) takes the former
// one back. Puts the row, counted from 1, of each day into `out`, which is left
// alone where nothing is known.
inline void latest_known(const double* period, const double* known,
                         const double* value, std::size_t from, std::size_t to,
                         const double* days, std::size_t count, int* out) {
  std::size_t next = from;
  std::map<double, std::size_t> rows;  // of each period its version by then
  for (std::size_t day = 0; day < count; ++day) {
    for (; next < to && known[next] <= days[day]; ++next) {
      if (std::isnan(value[next]))
        rows.erase(period[next]);
      else
        rows[period[next]] = next;
    }
    if (!rows.empty()) out[day] = static_cast<int>(rows.rbegin()->second) + 1;
  }
}

}  // namespace backfill

#endif
