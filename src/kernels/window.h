// Moving windows over one series on a regular grid. Each window's sum is a block's tail plus the next block's head
// (blocks as long as the window), so nothing is ever subtracted and no error travels from one window to the next.
#ifndef BACKFILL_WINDOW_H
#define BACKFILL_WINDOW_H

#include <algorithm>
#include <cstddef>
#include <limits>
#include <vector>

#include "accumulate.h"

namespace backfill {

// The mean of values[i - width + 1 .. i] at each i; NaN where the window starts before the data or holds a NaN.
inline void trailing_mean(const double* values, std::size_t n, std::size_t width, double* out) {
  const double nan = std::numeric_limits<double>::quiet_NaN();
  if (width > n) {
    std::fill(out, out + n, nan);
    return;
  }
  // tail[k] is the sum of a block from its place k to its end.
  std::vector<double> tail(width);
  Sum head;
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t place = i % width;
    head.add(values[i]);
    if (i + 1 < width) {
      out[i] = nan;
    } else if (place + 1 == width) {
      out[i] = head.value() / static_cast<double>(width);
    } else {
      out[i] = (tail[place + 1] + head.value()) / static_cast<double>(width);
    }
    if (place + 1 == width) {
      Sum from_end;
      for (std::size_t k = width; k-- > 0;) {
        from_end.add(values[i + 1 - width + k]);
        tail[k] = from_end.value();
      }
      head = Sum();
    }
  }
}

// Trailing means moved back so that each stands at the middle of its window. An even window has no middle period: the
// mean of the two windows around the period is taken, which weights the two outermost periods by half (the "2 by m"
// average of classical decomposition).
inline void centred_mean(const double* values, std::size_t n, std::size_t width, double* out) {
  const double nan = std::numeric_limits<double>::quiet_NaN();
  std::vector<double> trailing(n);
  trailing_mean(values, n, width, trailing.data());
  const std::size_t half = width / 2;
  for (std::size_t i = 0; i < n; ++i) {
    if (i + half >= n) {
      out[i] = nan;
    } else if (width % 2 == 1) {
      out[i] = trailing[i + half];
    } else {
      out[i] = (trailing[i + half - 1] + trailing[i + half]) / 2;
    }
  }
}

}  // namespace backfill

#endif
