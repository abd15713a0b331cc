// The local lows and highs of a series.
#ifndef BACKFILL_TURNING_H
#define BACKFILL_TURNING_H

#include <cmath>
#include <cstddef>
#include <vector>

namespace backfill {

struct Turn {
  std::size_t place;
  bool high;
};

// Places whose figure is the highest, or the lowest, of those within `span`
// places on either side. Of equal ones in a row the middle one (the earlier of
// two) stands for all, and the span is counted from their ends. Missing figures
// (NaN) are passed over. A place whose span reaches over an end is none, unless
// the series goes around. Of several turns to one side in a row, the most
// extreme is kept, the first of equal ones, so that lows and highs take turns.
inline std::vector<Turn> turning_places(const double* x, std::size_t n,
                                        std::size_t span, bool around) {
  std::vector<Turn> out;
  if (n < 3) return out;
  const auto at = [&](std::ptrdiff_t i) {
    const std::ptrdiff_t size = static_cast<std::ptrdiff_t>(n);
    return x[static_cast<std::size_t>(around ? (i % size + size) % size : i)];
  };
  const std::ptrdiff_t reach = static_cast<std::ptrdiff_t>(span),
                       size = static_cast<std::ptrdiff_t>(n);
  for (std::ptrdiff_t i = 0; i < size; ++i) {
    if (std::isnan(at(i))) continue;
    std::ptrdiff_t first = i, last = i;
    const std::ptrdiff_t from = around ? i - size + 1 : 0,
                         to = around ? i + size - 1 : size - 1;
    while (first > from && at(first - 1) == at(i)) --first;
    while (last < to && at(last + 1) == at(i)) ++last;
    if (i != first + (last - first) / 2 || last - first + 1 >= size) continue;
    if (!around && (first < reach || last + reach >= size)) continue;
    bool high = true, low = true, alone = true;
    for (std::ptrdiff_t k = first - reach; k <= last + reach && (high || low);
         ++k) {
      if ((k >= first && k <= last) || std::isnan(at(k))) continue;
      high = high && at(k) <= at(i);
      low = low && at(k) >= at(i);
      alone = false;
    }
    if (alone || high == low) continue;
    const Turn here{static_cast<std::size_t>(i), high};
    if (out.empty() || out.back().high != high)
      out.push_back(here);
    else if (high ? at(i) > x[out.back().place] : at(i) < x[out.back().place])
      out.back() = here;
  }
  return out;
}

}  // namespace backfill

#endif
