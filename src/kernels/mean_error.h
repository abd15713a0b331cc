// How sure the mean of a series is where its figures hang together. Figures
// that wander have no mean to be sure of; how likely that is, is told.
#ifndef BACKFILL_MEAN_ERROR_H
#define BACKFILL_MEAN_ERROR_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <utility>
#include <vector>

#include "accumulate.h"
#include "memory.h"

namespace backfill {

struct MeanError {
  std::size_t count = 0;
  double mean = std::numeric_limits<double>::quiet_NaN();
  double worth = std::numeric_limits<double>::quiet_NaN();
  double error = std::numeric_limits<double>::quiet_NaN();
  double wanders = std::numeric_limits<double>::quiet_NaN();
};

// The means of the positions of a season are taken out of `y`, but for their
// own mean; gives how many there were besides the first.
inline std::size_t take_season(Column* y, const std::vector<int>& position,
                               std::size_t cycle, double mean) {
  std::vector<double> sum(cycle, 0), count(cycle, 0);
  for (std::size_t i = 0; i < y->size(); ++i) {
    const std::size_t at = static_cast<std::size_t>(position[i]);
    sum[at] += (*y)[i], ++count[at];
  }
  for (std::size_t i = 0; i < y->size(); ++i) {
    const std::size_t at = static_cast<std::size_t>(position[i]);
    (*y)[i] += mean - sum[at] / count[at];
  }
  const auto seen = std::count_if(count.begin(), count.end(),
                                  [](double one) { return one > 0; });
  return seen > 0 ? static_cast<std::size_t>(seen) - 1 : 0;
}

// Of the figures y at their places; those without a season have no `position`.
inline MeanError error_of_mean(Column y, const Column& place,
                               const std::vector<int>& position,
                               std::size_t cycle) {
  MeanError out;
  out.count = y.size();
  if (y.empty()) return out;
  const double count = static_cast<double>(out.count);
  Sum sum;
  for (double one : y) sum.add(one);
  out.mean = sum.value() / count;
  double free = count - 1;
  if (!position.empty()) {
    free -= static_cast<double>(take_season(&y, position, cycle, out.mean));
  }
  if (free < 1) return out;
  double left = 0;
  for (double one : y) left += (one - out.mean) * (one - out.mean);
  const double alone = left / free / count;
  std::vector<Likely> likely = likely_memories(y, {Column(y.size(), 1)}, place);
  out.wanders = 0;
  for (Likely& one : likely) {
    if (!one.memory.wanders()) continue;
    out.wanders += one.weight;
    one.weight = 0;
  }
  for (Likely& one : likely) {
    one.weight = out.wanders < 1 ? one.weight / (1 - out.wanders) : 0;
  }
  const double squared =
      variance_of(Column(y.size(), 1 / count), place, likely) * (count - 1) /
      free;
  out.worth = squared > alone ? 1 + free * alone / squared : free + 1;
  out.error = std::sqrt(std::max(squared, alone));
  return out;
}

}  // namespace backfill

#endif
