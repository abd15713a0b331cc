// What the figures of each cell of a table come to: their number, sum, mean,
// spread and quantiles.
#ifndef BACKFILL_CELLS_H
#define BACKFILL_CELLS_H

#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "accumulate.h"
#include "quantile.h"
#include "window.h"

namespace backfill {

// Calls `use(cell, sum, spread, from, to)` for each cell with the figures of
// the rows that are in it, in the order of the rows; NaN is no figure. Cells
// are numbered from 1, rows in none have another number.
template <typename Use>
void each_cell(const std::int32_t* cell, const double* value, std::size_t n,
               std::size_t cells, Use use) {
  const auto in_one = [&](std::size_t i) {
    return cell[i] >= 1 && static_cast<std::size_t>(cell[i]) <= cells &&
           !std::isnan(value[i]);
  };
  std::vector<std::size_t> first(cells + 1);
  for (std::size_t i = 0; i < n; ++i) {
    if (in_one(i)) ++first[static_cast<std::size_t>(cell[i])];
  }
  for (std::size_t c = 0; c < cells; ++c) first[c + 1] += first[c];
  std::vector<std::size_t> next(first.begin(), first.end() - 1);
  std::vector<double> sorted(first[cells]);
  for (std::size_t i = 0; i < n; ++i) {
    if (in_one(i))
      sorted[next[static_cast<std::size_t>(cell[i] - 1)]++] = value[i];
  }
  for (std::size_t c = 0; c < cells; ++c) {
    double *const from = sorted.data() + first[c], *const to = sorted.data() +
                                                               first[c + 1];
    PartSum sum;
    PartSpread spread;
    for (const double* x = from; x < to; ++x) {
      sum.add(*x);
      spread.add(*x);
    }
    use(c, sum, spread, from, to);
  }
}

}  // namespace backfill

#endif
