// Medians and quantiles of moving windows: the figures of a stretch of about
// two windows are ranked once, and a tree of counts by rank (Fenwick, P. M.
// (1994). A new data structure for cumulative frequency tables. Software:
// Practice and Experience 24, 327-336) takes them in and out, so that a window
// costs the logarithm of its width.
#ifndef BACKFILL_WINDOW_ORDER_H
#define BACKFILL_WINDOW_ORDER_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "window.h"

namespace backfill {

// How many there are of each rank, and which rank holds the k-th.
class RankCounts {
 public:
  void reset(std::size_t ranks) {
    top_ = 1;
    while (top_ * 2 <= ranks) top_ *= 2;
    tree_.assign(top_ * 2 + 1, 0);
  }
  void add(std::size_t rank, std::int32_t by) {
    for (std::size_t at = rank + 1; at < tree_.size(); at += at & (~at + 1))
      tree_[at] += by;
  }
  // Counted from 0.
  std::size_t find(std::size_t k) const {
    std::int32_t left = static_cast<std::int32_t>(k);
    std::size_t at = 0;
    for (std::size_t step = top_ * 2; step > 0; step /= 2) {
      if (at + step < tree_.size() && tree_[at + step] <= left) {
        at += step;
        left -= tree_[at];
      }
    }
    return at;
  }

 private:
  std::size_t top_ = 1;
  std::vector<std::int32_t> tree_;
};

// Calls `use(row, window, count, figure)` with the quantile of each window
// within the grid and the number of figures in it. Between the two nearest in
// proportion (Hyndman and Fan 1996, definition 7).
template <typename WindowOf, typename Use>
void each_window_quantile(const double* x, std::size_t n, Rows rows,
                          double share, WindowOf window_of, Use use) {
  RankCounts counts;
  std::vector<std::pair<double, std::uint32_t>> sorted;
  std::vector<std::uint32_t> rank;
  std::size_t i = rows.first;
  while (i < rows.end && !window_of(i).within(n)) ++i;
  while (i < rows.end) {
    // The windows that reach no further than about one width beyond the first
    // of them.
    const Window first = window_of(i);
    const std::ptrdiff_t reach =
        first.end + static_cast<std::ptrdiff_t>(first.width()) + 64;
    std::size_t last = i;
    while (last + 1 < rows.end && window_of(last + 1).within(n) &&
           window_of(last + 1).end <= reach)
      ++last;
    const std::ptrdiff_t from = first.first, end = window_of(last).end;
    sorted.clear();
    for (std::ptrdiff_t k = from; k < end; ++k) {
      if (!std::isnan(x[k]))
        sorted.emplace_back(x[k], static_cast<std::uint32_t>(k - from));
    }
    std::sort(sorted.begin(), sorted.end());
    rank.assign(static_cast<std::size_t>(end - from), 0);
    for (std::size_t r = 0; r < sorted.size(); ++r)
      rank[sorted[r].second] = static_cast<std::uint32_t>(r);
    counts.reset(sorted.size() + 1);
    std::int64_t count = 0;
    const auto move = [&](std::ptrdiff_t k, bool in) {
      if (std::isnan(x[k])) return;
      counts.add(rank[static_cast<std::size_t>(k - from)], in ? 1 : -1);
      count += in ? 1 : -1;
    };
    std::ptrdiff_t out_to = from, in_to = from;
    for (; i <= last; ++i) {
      const Window window = window_of(i);
      while (in_to < window.end) move(in_to++, true);
      while (out_to < window.first) move(out_to++, false);
      if (count == 0) {
        use(i, window, count, std::numeric_limits<double>::quiet_NaN());
        continue;
      }
      const double place = share * static_cast<double>(count - 1);
      const std::size_t below = static_cast<std::size_t>(place);
      const double part = place - static_cast<double>(below),
                   low = sorted[counts.find(below)].first;
      const double high = part > 0 ? sorted[counts.find(below + 1)].first : low;
      use(i, window, count, low + part * (high - low));
    }
    while (i < rows.end && !window_of(i).within(n)) ++i;
  }
}

}  // namespace backfill

#endif
