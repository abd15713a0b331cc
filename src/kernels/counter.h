// Counters: what a reading that only rises rose by since the reading before,
// and what its falls are taken as.
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

// What a fall is taken as: not known, a correction that counts when it is made
// or that is spread back over what was counted before, a new start from 0, a
// start from 0 after the highest reading that there is.
enum class Fall { unknown, counted, spread_back, restart, rollover };

// How a counter is read. `spread`: a rise over slots without a reading is
// spread over them. `resets` is what a fall to less than half is taken as,
// `falls` what any other is. `rollover`: the reading at which it starts from 0
// again, infinite where there is none.
struct Counting {
  bool spread;
  Fall falls, resets;
  double rollover;
};

// Two readings of a series that follow each other, by their rows from 0.
struct Neighbours {
  std::size_t before, after;
};

// `share`: what earlier rises are multiplied by where the fall is spread back.
struct Fallen {
  std::size_t before, after;
  Fall taken;
  double rise, share;
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
  std::vector<Fallen> falls;
  std::vector<Neighbours> spans;  // slots without a reading lie in between
  std::vector<Share> shares;
};

// The latest reading of a series, and the one that what it rose by counts from.
struct Counted {
  std::size_t row = std::numeric_limits<std::size_t>::max();
  double base = 0;
  bool any() const { return row != std::numeric_limits<std::size_t>::max(); }
};

// What a fall is taken as. One by more than half of the range is a rollover; a
// correction by more than was counted cannot be spread over that.
inline Fallen take_fall(double before, double after, double base,
                        const Counting& how) {
  const double over = after + how.rollover - before;
  if (over <= how.rollover / 2 && std::isfinite(over))
    return {0, 0, Fall::rollover, over, 1};
  const Fall taken = after < before / 2 ? how.resets : how.falls;
  if (taken == Fall::counted) return {0, 0, taken, after - before, 1};
  if (taken == Fall::restart) return {0, 0, taken, after, 1};
  if (taken == Fall::spread_back && after >= base)
    return {0, 0, taken, 0, (after - base) / (before - base)};
  return {0, 0, Fall::unknown, std::numeric_limits<double>::quiet_NaN(), 1};
}

// Spreads corrections over what their series rose by before, in proportion.
// `row_at(i)` is the row of the i-th reading in order of time.
template <class RowAt>
void spread_back(Rises* out, const std::int32_t* series, std::size_t n_series,
                 const RowAt& row_at) {
  std::vector<double> share(n_series, 1);
  std::size_t falls = out->falls.size(), parts = out->shares.size();
  for (std::size_t i = out->rise.size(); i-- > 0;) {
    const std::size_t row = row_at(i);
    double& factor = share[static_cast<std::size_t>(series[row] - 1)];
    out->rise[row] *= factor;
    for (; parts > 0 && out->shares[parts - 1].row == row; --parts)
      out->shares[parts - 1].amount *= factor;
    if (falls == 0 || out->falls[falls - 1].after != row) continue;
    const Fallen& fall = out->falls[--falls];
    const bool anew =
        fall.taken == Fall::unknown || fall.taken == Fall::restart;
    factor = anew ? 1 : factor * fall.share;
  }
}

// `order` has the rows (from 1) in order of time within each series; where it
// is null they are so already.
inline Rises find_rises(const Times& times, Clock clock, const LocalClock& zone,
                        const std::int32_t* series, const double* reading,
                        const std::int32_t* order,
                        const std::vector<Cadence>& cadence,
                        const Counting& how) {
  Rises out;
  out.rise.assign(times.n, std::numeric_limits<double>::quiet_NaN());
  std::vector<Counted> latest(cadence.size());
  LocalClock local_clock = zone;
  const auto row_at = [&](std::size_t i) {
    return order == nullptr ? i : static_cast<std::size_t>(order[i] - 1);
  };
  with_moments(times, clock, [&](auto moments) {
    for (std::size_t i = 0; i < times.n; ++i) {
      const std::size_t row = row_at(i);
      if (std::isnan(reading[row])) continue;
      const std::size_t s = static_cast<std::size_t>(series[row] - 1);
      Counted& known = latest[s];
      const bool first = !known.any();
      const std::size_t before = known.row;
      known.row = row;
      if (first) known.base = reading[row];
      if (first) continue;
      double rise = reading[row] - reading[before];
      if (rise < 0) {
        Fallen fall = take_fall(reading[before], reading[row], known.base, how);
        fall.before = before;
        fall.after = row;
        out.falls.push_back(fall);
        if (fall.taken == Fall::rollover) known.base -= how.rollover;
        if (fall.taken == Fall::restart) known.base = 0;
        if (fall.taken == Fall::unknown) known.base = reading[row];
        if (fall.taken == Fall::unknown) continue;
        rise = fall.rise;
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
      if (!how.spread) continue;
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
  if (how.falls == Fall::spread_back)
    spread_back(&out, series, cadence.size(), row_at);
  return out;
}

}  // namespace backfill

#endif
