// Counters: what a reading that only rises rose by since the reading before.
#ifndef BACKFILL_COUNTER_H
#define BACKFILL_COUNTER_H

#include <cmath>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <vector>

#include "cadence.h"
#include "moments.h"

namespace backfill {

// Two readings of a series that follow each other, by their rows from 0.
struct Neighbours {
  std::size_t before, after;
};

// A part of a rise, put into a slot that has no reading: the row of the reading
// after it, its instant and its amount.
struct Share {
  std::size_t row;
  double instant;
  double amount;
};

struct Rises {
  std::vector<double> rise;  // one for each row; NaN where it is not known
  std::vector<Neighbours>
      falls;  // it fell in between: a reset, or a correction
  std::vector<Neighbours> spans;  // slots without a reading lie in between
  std::vector<Share> shares;
};

// `order` has the rows (from 1) in order of time within each series; where it
// is null they are so already. With `spread`, a rise over slots without a
// reading is spread over them evenly.
inline Rises find_rises(const Times& times, Clock clock, const LocalClock& zone,
                        const std::int32_t* series, const double* reading,
                        const std::int32_t* order,
                        const std::vector<Cadence>& cadence, bool spread) {
  const std::size_t no_row = std::numeric_limits<std::size_t>::max();
  Rises out;
  out.rise.assign(times.n, std::numeric_limits<double>::quiet_NaN());
  std::vector<std::size_t> latest(cadence.size(), no_row);
  LocalClock local_clock = zone;
  with_moments(times, clock, [&](auto moments) {
    for (std::size_t i = 0; i < times.n; ++i) {
      const std::size_t row =
          order == nullptr ? i : static_cast<std::size_t>(order[i] - 1);
      if (std::isnan(reading[row])) continue;
      const std::size_t s = static_cast<std::size_t>(series[row] - 1);
      const std::size_t before = latest[s];
      latest[s] = row;
      if (before == no_row) continue;
      const double rise = reading[row] - reading[before];
      if (rise < 0) {
        out.falls.push_back({before, row});
        continue;
      }
      out.rise[row] = rise;
      const Cadence& c = cadence[s];
      if (c.steps == Steps::none) continue;
      const TimedMoment here = moments[row], there = moments[before];
      if (!c.may_skip(here.instant - there.instant, here.local - there.local))
        continue;
      const std::int64_t from = c.slot(there.instant, there.local) + 1,
                         to = c.slot(here.instant, here.local);
      const std::int64_t missing = c.expected(from, to);
      if (missing < 1) continue;
      out.spans.push_back({before, row});
      if (!spread) continue;
      const double amount = rise / static_cast<double>(missing + 1);
      out.rise[row] = amount;
      for (std::int64_t slot = from; slot < to; ++slot) {
        if (c.expected(slot, slot + 1) == 0) continue;
        double instant = c.start(slot), again;
        if (c.steps != Steps::instant)
          local_clock.instant(instant, &instant, &again);
        out.shares.push_back({row, instant, amount});
      }
    }
  });
  return out;
}

}  // namespace backfill

#endif
