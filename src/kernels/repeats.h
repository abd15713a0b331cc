// Rows of one series that are for the same instant, and rows that stand before
// an earlier one.
#ifndef BACKFILL_REPEATS_H
#define BACKFILL_REPEATS_H

#include <cstddef>
#include <cstdint>
#include <cstring>
#include <limits>
#include <vector>

#include "distinct.h"

namespace backfill {

struct Repeats {
  std::size_t out_of_order =
      0;  // rows that are earlier than a row of their series before them
  std::vector<std::size_t>
      row;  // a row for whose instant its series has a row already,
  std::vector<std::size_t> first;  // and the first such row
  double lowest = std::numeric_limits<double>::infinity();
  double highest = -std::numeric_limits<double>::infinity();
};

// `series_of(i)` is the number of the series of row i, from 0 in order of first
// appearance or any other. In order, a series repeats an instant only where the
// row before it has the same, which costs a comparison; only where rows are out
// of order must the instants be looked up.
template <typename When, typename SeriesOf>
Repeats find_repeats(const When* when, std::size_t n, SeriesOf series_of) {
  Repeats out;
  struct Latest {
    double at = -std::numeric_limits<double>::infinity();
    std::size_t row = 0;
  };
  std::vector<Latest> latest;
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t s = series_of(i);
    const double at = when[i];
    if (s >= latest.size()) latest.resize(s + 1);
    if (at > latest[s].at) {
      latest[s] = {at, i};
    } else if (at < latest[s].at) {
      ++out.out_of_order;
    } else {
      out.row.push_back(i);
      out.first.push_back(latest[s].row);
    }
    if (at < out.lowest) out.lowest = at;
    if (at > out.highest) out.highest = at;
  }
  if (out.out_of_order == 0) return out;
  out.row.clear();
  out.first.clear();
  // Two numbers in one key: that of the distinct instant, and the series.
  Distinct instants, pairs;
  std::vector<std::size_t> first_of_pair;
  for (std::size_t i = 0; i < n; ++i) {
    const double at = when[i] + 0.0;  // -0 is 0
    std::uint64_t bits;
    std::memcpy(&bits, &at, 8);
    bool fresh;
    const std::uint64_t instant =
        static_cast<std::uint64_t>(instants.number(bits, &fresh));
    const std::uint64_t key =
        instant << 32 | static_cast<std::uint32_t>(series_of(i));
    const std::size_t pair =
        static_cast<std::size_t>(pairs.number(key, &fresh));
    if (fresh) {
      first_of_pair.push_back(i);
    } else {
      out.row.push_back(i);
      out.first.push_back(first_of_pair[pair]);
    }
  }
  return out;
}

}  // namespace backfill

#endif
