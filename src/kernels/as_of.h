// What was known on a day: of the rows published by then the one of the latest
// period, in its latest version.
#ifndef BACKFILL_AS_OF_H
#define BACKFILL_AS_OF_H

#include <cstddef>

namespace backfill {

// Rows `from` to before `to` come in order of `known`, of one day in order of
// their versions; `days` rise. Puts the row, counted from 1, of each day into
// `out`, which is left alone where nothing was known yet.
inline void latest_known(const double* period, const double* known,
                         std::size_t from, std::size_t to, const double* days,
                         std::size_t count, int* out) {
  std::size_t next = from;
  const std::size_t none = to;
  std::size_t best = none;
  for (std::size_t day = 0; day < count; ++day) {
    for (; next < to && known[next] <= days[day]; ++next) {
      if (best == none || period[next] >= period[best]) best = next;
    }
    if (best != none) out[day] = static_cast<int>(best) + 1;
  }
}

}  // namespace backfill

#endif
