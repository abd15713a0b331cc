// Moving windows over one series on a regular grid, one pass whatever their
// width. A window's figure is put together from a tail (parts of the grid up to
// a place, counted from behind) and a head (from there on), so nothing is ever
// subtracted and no error travels from one window to the next.
#ifndef BACKFILL_WINDOW_H
#define BACKFILL_WINDOW_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <vector>

#include "accumulate.h"

namespace backfill {

// Places from `first` to before `end` of the grid; lost where these reach
// outside it.
struct Window {
  std::ptrdiff_t first, end;

  bool within(std::size_t n) const {
    return first >= 0 && end <= static_cast<std::ptrdiff_t>(n) && first < end;
  }
  std::size_t width() const { return static_cast<std::size_t>(end - first); }
};

// Parts of a window: they take figures one by one, NaN being none, and merge.
struct PartSum {
  Sum sum;
  std::int64_t count = 0;

  void add(double x) {
    if (std::isnan(x)) return;
    sum.add(x);
    ++count;
  }
  void add(const PartSum& other) {
    sum.add(other.sum);
    count += other.count;
  }
  double mean() const { return sum.value() / static_cast<double>(count); }
};

// The spread about the mean, as in Statistics; counted from the first figure,
// so that small differences between large figures are not lost.
struct PartSpread {
  double pivot = 0, mean = 0, squares = 0;  // the mean less the pivot
  std::int64_t count = 0;

  void add(double x) {
    if (std::isnan(x)) return;
    if (count == 0) pivot = x;
    x -= pivot;
    const double off = x - mean;
    ++count;
    mean += off / static_cast<double>(count);
    squares += off * (x - mean);
  }
  // Of a sample; NaN of fewer than two.
  double deviation() const {
    return count < 2 ? std::numeric_limits<double>::quiet_NaN()
                     : std::sqrt(squares / static_cast<double>(count - 1));
  }
  void add(const PartSpread& other) {
    if (other.count == 0) return;
    if (count == 0) {
      *this = other;
      return;
    }
    const double here = static_cast<double>(count),
                 there = static_cast<double>(other.count);
    const double off = (other.pivot - pivot) + (other.mean - mean);
    mean += off * there / (here + there);
    squares += other.squares + off * off * here * there / (here + there);
    count += other.count;
  }
};

template <bool highest>
struct PartExtreme {
  double best = highest ? -std::numeric_limits<double>::infinity()
                        : std::numeric_limits<double>::infinity();
  std::int64_t count = 0;

  void add(double x) {
    if (std::isnan(x)) return;
    if (highest ? x > best : x < best) best = x;
    ++count;
  }
  void add(const PartExtreme& other) {
    if (highest ? other.best > best : other.best < best) best = other.best;
    count += other.count;
  }
};

// Rows of which each has a window, from `first` to before `end`.
struct Rows {
  std::size_t first, end;
};

// Calls `use(row, window, part)` with the part that each window within the grid
// of n places holds. Neither end of the windows, `window_of(row)`, may move
// back.
template <typename Part, typename WindowOf, typename Use>
void each_window(const double* x, std::size_t n, Rows rows, WindowOf window_of,
                 Use use) {
  std::vector<Part> tail;  // the parts from each place on to before `turn`,
                           // from place `from` on
  std::ptrdiff_t from = 0, turn = 0, end = 0;
  Part head;
  for (std::size_t i = rows.first; i < rows.end; ++i) {
    const Window window = window_of(i);
    if (!window.within(n)) continue;
    if (window.first >= turn) {
      from = window.first;
      turn = end = window.end;
      if (tail.size() < window.width()) tail.resize(window.width());
      Part part;
      for (std::ptrdiff_t k = turn; k-- > from;) {
        part.add(x[k]);
        tail[static_cast<std::size_t>(k - from)] = part;
      }
      head = Part();
      use(i, window, part);
      continue;
    }
    while (end < window.end) head.add(x[end++]);
    Part whole = tail[static_cast<std::size_t>(window.first - from)];
    whole.add(head);
    use(i, window, whole);
  }
}

}  // namespace backfill

#endif
