// How two columns go together over the rows that both have: products about
// their means there, ranks, and concordance.
#ifndef BACKFILL_PAIRS_H
#define BACKFILL_PAIRS_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <numeric>
#include <vector>

namespace backfill {

// A column about its mean, with 0 for what is missing (NaN), which rows are
// there and which are gone, and the squares; their sums.
struct PairColumn {
  std::vector<double> off, there, square;
  std::vector<std::size_t> gone;
  std::size_t count = 0;
  double sum = 0, squares = 0;

  PairColumn(const double* x, std::size_t n) : off(n), there(n), square(n) {
    double mean = 0;
    for (std::size_t i = 0; i < n; ++i) {
      if (std::isnan(x[i])) continue;
      ++count;
      mean += (x[i] - mean) / static_cast<double>(count);
    }
    for (std::size_t i = 0; i < n; ++i) {
      if (std::isnan(x[i])) {
        gone.push_back(i);
        continue;
      }
      there[i] = 1;
      off[i] = x[i] - mean;
      square[i] = off[i] * off[i];
      sum += off[i];
      squares += square[i];
    }
  }
  bool whole() const { return gone.empty(); }
};

// Of the rows in common: how many, and the sums of squares and of products
// about the means there.
struct Together {
  double n = 0, xx = 0, yy = 0, xy = 0;

  double correlation() const {
    if (!(xx > 0) || !(yy > 0)) return std::numeric_limits<double>::quiet_NaN();
    const double r = xy / std::sqrt(xx) / std::sqrt(yy);
    return std::max(-1.0, std::min(1.0, r));
  }
  double covariance() const { return xy / (n - 1); }
};

// The sum of x[i] * y[i], on four lanes.
inline double dot(const double* x, const double* y, std::size_t n) {
  double lane[4] = {0, 0, 0, 0};
  std::size_t i = 0;
  for (; i + 4 <= n; i += 4)
    for (std::size_t k = 0; k < 4; ++k) lane[k] += x[i + k] * y[i + k];
  for (; i < n; ++i) lane[0] += x[i] * y[i];
  return (lane[0] + lane[1]) + (lane[2] + lane[3]);
}

// What a sum over all rows loses where the other column is missing.
inline double lost(const std::vector<double>& x,
                   const std::vector<std::size_t>& gone) {
  double sum = 0;
  for (std::size_t i : gone) sum += x[i];
  return sum;
}

inline Together together(const PairColumn& x, const PairColumn& y) {
  const std::size_t n = x.off.size();
  // A few missing rows are taken off the sums of all; of many the rest is
  // added.
  const bool few = x.gone.size() + y.gone.size() < n / 3;
  const auto over = [&](double all, const std::vector<double>& of,
                        const PairColumn& other) {
    return few ? all - lost(of, other.gone)
               : dot(of.data(), other.there.data(), n);
  };
  Together found;
  found.n = over(static_cast<double>(x.count), x.there, y);
  if (found.n < 1) return found;
  const double sum_x = over(x.sum, x.off, y), sum_y = over(y.sum, y.off, x);
  // What is left about the mean of these rows; of equal figures only rounding.
  const auto about = [&](double squares, double sum) {
    const double left = squares - sum * sum / found.n;
    return left > 1e-13 * squares ? left : 0;
  };
  found.xx = about(over(x.squares, x.square, y), sum_x);
  found.yy = about(over(y.squares, y.square, x), sum_y);
  found.xy = dot(x.off.data(), y.off.data(), n) - sum_x * sum_y / found.n;
  return found;
}

// Ranks from 1 on; of equal figures the mean of theirs.
inline std::vector<double> ranks_of(const std::vector<double>& x) {
  std::vector<std::size_t> order(x.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::sort(order.begin(), order.end(),
            [&](std::size_t a, std::size_t b) { return x[a] < x[b]; });
  std::vector<double> rank(x.size());
  for (std::size_t from = 0; from < order.size();) {
    std::size_t to = from;
    while (to < order.size() && x[order[to]] == x[order[from]]) ++to;
    const double mean =
        (static_cast<double>(from) + static_cast<double>(to) + 1) / 2;
    for (; from < to; ++from) rank[order[from]] = mean;
  }
  return rank;
}

// How many pairs of a sorted column are equal: the sum of t (t - 1) / 2.
template <typename Equal>
double equal_pairs(std::size_t n, Equal equal) {
  double pairs = 0;
  std::size_t run = 1;
  for (std::size_t i = 1; i <= n; ++i) {
    if (i < n && equal(i - 1, i)) {
      ++run;
    } else {
      pairs += static_cast<double>(run) * static_cast<double>(run - 1) / 2;
      run = 1;
    }
  }
  return pairs;
}

// Sorts x[from, to) and counts how many pairs stood the wrong way around.
inline double exchanges(std::vector<double>& x, std::vector<double>& spare,
                        std::size_t from, std::size_t to) {
  if (to - from < 2) return 0;
  const std::size_t middle = from + (to - from) / 2;
  double count =
      exchanges(x, spare, from, middle) + exchanges(x, spare, middle, to);
  std::size_t left = from, right = middle, put = from;
  while (left < middle || right < to) {
    if (right == to || (left < middle && x[left] <= x[right])) {
      spare[put++] = x[left++];
    } else {
      count += static_cast<double>(middle - left);
      spare[put++] = x[right++];
    }
  }
  std::copy(spare.begin() + static_cast<std::ptrdiff_t>(from),
            spare.begin() + static_cast<std::ptrdiff_t>(to),
            x.begin() + static_cast<std::ptrdiff_t>(from));
  return count;
}

// Kendall's tau-b by counting exchanges (Knight 1966).
inline double concordance(const std::vector<double>& x,
                          const std::vector<double>& y) {
  const std::size_t n = x.size();
  std::vector<std::size_t> order(n);
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return x[a] < x[b] || (x[a] == x[b] && y[a] < y[b]);
  });
  std::vector<double> along(n), spare(n);
  for (std::size_t i = 0; i < n; ++i) along[i] = y[order[i]];
  const double both = equal_pairs(n, [&](std::size_t a, std::size_t b) {
    return x[order[a]] == x[order[b]] && y[order[a]] == y[order[b]];
  });
  const double in_x = equal_pairs(n, [&](std::size_t a, std::size_t b) {
    return x[order[a]] == x[order[b]];
  });
  const double discordant = exchanges(along, spare, 0, n);
  const double in_y = equal_pairs(
      n, [&](std::size_t a, std::size_t b) { return along[a] == along[b]; });
  const double all = static_cast<double>(n) * static_cast<double>(n - 1) / 2;
  const double score = all - in_x - in_y + both - 2 * discordant;
  const double scale = std::sqrt(all - in_x) * std::sqrt(all - in_y);
  if (!(scale > 0)) return std::numeric_limits<double>::quiet_NaN();
  return std::max(-1.0, std::min(1.0, score / scale));
}

// How many independent pairs `n` are worth, by how each of the two hangs
// together with its own past: n / (1 + 2 sum (1 - k / n) r[k] s[k]) over the
// first fifth of the lags (Pyper and Peterman 1998), or `least` of them; n at
// most.
inline double pairs_worth(double n, const double* r, const double* s,
                          std::size_t most, double least = 1) {
  double sum = 0;
  const std::size_t lags = std::min(
      most, static_cast<std::size_t>(std::max(least, std::floor(n / 5))));
  for (std::size_t k = 1; k <= lags; ++k) {
    const double product = r[k - 1] * s[k - 1];
    if (std::isnan(product)) continue;
    sum += (1 - static_cast<double>(k) / n) * product;
  }
  return std::min(n, n / std::max(1 + 2 * sum, 1e-6));
}

}  // namespace backfill

#endif
