// The season of a series taken out beside its groups, so that neither passes
// for the other.
#ifndef BACKFILL_BESIDE_SEASON_H
#define BACKFILL_BESIDE_SEASON_H

#include <cmath>
#include <cstddef>
#include <vector>

#include "basis.h"

namespace backfill {

// Of each group whether it can be told from the season: not where it has all of
// a position or none of it, whichever that is.
inline std::vector<bool> told_from_season(const std::vector<int>& of,
                                          const std::vector<int>& at,
                                          std::size_t cycle,
                                          std::size_t groups) {
  std::vector<int> all(cycle), own(cycle * groups);
  for (std::size_t i = 0; i < of.size(); ++i) {
    const std::size_t p = static_cast<std::size_t>(at[i]);
    ++all[p], ++own[static_cast<std::size_t>(of[i]) * cycle + p];
  }
  std::vector<bool> out(groups);
  for (std::size_t g = 0; g < groups; ++g)
    for (std::size_t p = 0; p < cycle; ++p) {
      const int here = own[g * cycle + p];
      if (here > 0 && here < all[p]) out[g] = true;
    }
  return out;
}

// `position` (from 0) and `code` (from 0, -1 for none) of each place. What the
// positions' means add to those of the groups, by least squares of both, is
// taken from the values; which groups are told from it.
inline std::vector<bool> take_season_out(std::vector<double>* value,
                                         const std::vector<int>& code,
                                         const std::vector<int>& position,
                                         std::size_t cycle,
                                         std::size_t groups) {
  Column y;
  std::vector<int> at, of;
  for (std::size_t i = 0; i < value->size(); ++i) {
    if (code[i] < 0 || std::isnan((*value)[i])) continue;
    y.push_back((*value)[i]), at.push_back(position[i]), of.push_back(code[i]);
  }
  Basis basis(at, cycle);
  std::vector<Column> taken;
  for (std::size_t g = 1; g < groups; ++g) {
    Column here(y.size());
    for (std::size_t i = 0; i < y.size(); ++i)
      here[i] = of[i] == static_cast<int>(g);
    if (product(here, here) > 0 && basis.add(here))
      taken.push_back(std::move(here));
  }
  const Column size = basis.solve(y);
  for (std::size_t j = 0; j < taken.size(); ++j)
    subtract(&y, taken[j], size[j]);
  const Column means = basis.means_of(y);
  double level = 0;
  for (int p : at) level += means[static_cast<std::size_t>(p)];
  level /= static_cast<double>(at.size());
  for (std::size_t i = 0; i < value->size(); ++i)
    if (code[i] >= 0)
      (*value)[i] -= means[static_cast<std::size_t>(position[i])] - level;
  return told_from_season(of, at, cycle, groups);
}

}  // namespace backfill

#endif
