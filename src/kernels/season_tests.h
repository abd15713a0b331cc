// Whether the parts of a seasonal index differ between the positions of the
// cycle at all, whether they move over the cycles, how much of their variation
// is season, and which of them stand apart.
#ifndef BACKFILL_SEASON_TESTS_H
#define BACKFILL_SEASON_TESTS_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <utility>
#include <vector>

#include "season.h"

namespace backfill {

// A statistic with its degrees of freedom; NaN where there are none.
struct Test {
  double statistic = std::numeric_limits<double>::quiet_NaN(), free = 0,
         free_within = 0;
};

inline double ratio_of_variances(double between, double free, double within,
                                 double free_within) {
  return free > 0 && free_within > 0 && (between > 0 || within > 0)
             ? (between / free) / (within / free_within)
             : std::numeric_limits<double>::quiet_NaN();
}

// The ranks of figures from 1 on; those alike share the mean of theirs.
inline std::vector<double> ranks_of(const std::vector<double>& x) {
  std::vector<std::size_t> order(x.size());
  for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
  std::sort(order.begin(), order.end(),
            [&](std::size_t a, std::size_t b) { return x[a] < x[b]; });
  std::vector<double> out(x.size());
  for (std::size_t i = 0, end = 0; i < order.size(); i = end) {
    while (end < order.size() && x[order[end]] == x[order[i]]) ++end;
    for (std::size_t k = i; k < end; ++k)
      out[order[k]] = static_cast<double>(i + end + 1) / 2;
  }
  return out;
}

class SeasonTests {
 public:
  Test variance;  // analysis of variance over the positions
  Test ranks;     // Kruskal, W. H. and Wallis, W. A. (1952). Use of ranks in
                  // one-criterion variance analysis. JASA 47.
  Test drift;  // a straight line over the cycles at each position, against none
  Test drift_ranks;  // the same of ranks, which one part alone cannot decide
  double share =
      std::numeric_limits<double>::quiet_NaN();  // of the variation about the
                                                 // mean that the index explains
  double memory =
      std::numeric_limits<double>::quiet_NaN();  // the autocorrelation of the
                                                 // parts about the means of
                                                 // their positions, at lag 1

  explicit SeasonTests(const Season& season) {
    const std::size_t n = season.sorted.size(), positions = season.index.size();
    Sum sum;
    for (double x : season.sorted) sum.add(x);
    const double mean = sum.value() / static_cast<double>(n);
    double all = 0, left = 0, within = 0;
    std::vector<double> off(n);
    for (std::size_t p = 0; p < positions; ++p) {
      const double here =
          combined(season.sorted.data() + season.first[p],
                   season.sorted.data() + season.first[p + 1], Combine::mean);
      for (std::size_t i = season.first[p]; i < season.first[p + 1]; ++i) {
        const double x = season.sorted[i];
        // Ratios vary with their size.
        off[i] = (x - here) / (season.rule().ratio ? here : 1);
        all += (x - mean) * (x - mean);
        left += (x - season.index[p]) * (x - season.index[p]);
        within += (x - here) * (x - here);
      }
    }
    const double count = static_cast<double>(n),
                 groups = static_cast<double>(positions);
    // The parts about a centred average come to the same over each cycle, which
    // takes a degree of freedom from each but the first.
    const double tied = season.rule().overall ? 0 : count / groups - 1,
                 free = count - groups - tied;
    variance = {ratio_of_variances(all - within, groups - 1, within, free),
                groups - 1, free};
    drift = lines_over_cycles(season, off, free);
    drift_ranks = lines_over_cycles(season, ranks_of(off), free);
    if (all > 0) share = std::max(0.0, 1 - left / all);
    remember(season, off);
    rank(season);
  }

 private:
  static Test lines_over_cycles(const Season& season,
                                const std::vector<double>& x, double free) {
    const std::size_t positions = season.index.size();
    const double cycle = static_cast<double>(positions);
    double around = 0, explained = 0, lines = 0;
    for (std::size_t p = 0; p < positions; ++p) {
      const double count = static_cast<double>(season.count(p));
      double middle = 0, mean = 0, product = 0, square = 0;
      for (std::size_t i = season.first[p]; i < season.first[p + 1]; ++i) {
        middle += static_cast<double>(season.place[i]) / count;
        mean += x[i] / count;
      }
      for (std::size_t i = season.first[p]; i < season.first[p + 1]; ++i) {
        const double at =
            (static_cast<double>(season.place[i]) - middle) / cycle;
        around += (x[i] - mean) * (x[i] - mean);
        product += at * (x[i] - mean);
        square += at * at;
      }
      if (square > 0) {
        explained += product * product / square;
        ++lines;
      }
    }
    // Parts that come to the same over each cycle take one from the lines, too.
    if (!season.rule().overall) lines = std::max(0.0, lines - 1);
    // Lines through two or three points each leave too little to judge by.
    if (free - lines < 4) return Test();
    return {
        ratio_of_variances(explained, lines, around - explained, free - lines),
        lines, free - lines};
  }

  void remember(const Season& season, const std::vector<double>& off) {
    std::vector<double> along(season.part.size(),
                              std::numeric_limits<double>::quiet_NaN());
    double squares = 0, products = 0;
    for (std::size_t i = 0; i < off.size(); ++i) {
      along[season.place[i]] = off[i];
      squares += off[i] * off[i];
    }
    for (std::size_t i = 1; i < along.size(); ++i) {
      const double product = along[i - 1] * along[i];
      if (!std::isnan(product)) products += product;
    }
    if (squares > 0) memory = products / squares;
  }

  void rank(const Season& season) {
    const std::size_t n = season.sorted.size(), positions = season.index.size();
    if (n <= positions) return;
    const std::vector<double> all = ranks_of(season.sorted);
    const double count = static_cast<double>(n), middle = (count + 1) / 2;
    double between = 0, around = 0;
    for (std::size_t p = 0; p < positions; ++p) {
      double sum = 0;
      for (std::size_t i = season.first[p]; i < season.first[p + 1]; ++i) {
        sum += all[i] - middle;
        around += (all[i] - middle) * (all[i] - middle);
      }
      between += sum * sum / static_cast<double>(season.count(p));
    }
    if (around > 0)
      ranks = {(count - 1) * between / around,
               static_cast<double>(positions - 1), 0};
  }
};

}  // namespace backfill

#endif
