// After how many periods a series seems to come back. All is looked for in its
// changes from period to period, in which a trend and a level that wanders
// leave little.
#ifndef BACKFILL_CYCLES_H
#define BACKFILL_CYCLES_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

#include "autocorrelation.h"
#include "season_tests.h"

namespace backfill {

struct CycleFound {
  std::size_t cycle;
  double coefficient;  // autocorrelation of the changes at that lag
  double share;  // of their variance between positions, adjusted for how many
                 // there are
  double frequency;  // share of their variance at the frequency of one cycle
  Test test;         // analysis of variance over the positions
};

// Those whose autocorrelation is a peak above `bound(pairs)`, by how much they
// explain. A multiple of one that is shorter counts where it explains clearly
// more; of some that are about as long the one that explains most.
template <typename Bound>
std::vector<CycleFound> find_cycles(const double* x, std::size_t n,
                                    Bound bound) {
  std::vector<CycleFound> out;
  if (n < 9) return out;
  std::vector<double> change(n - 1);
  for (std::size_t i = 0; i + 1 < n; ++i) change[i] = x[i + 1] - x[i];
  const std::size_t most = (n - 1) / 2;
  const Centred centred(change.data(), change.size());
  const double variance =
      centred.squares() / static_cast<double>(centred.count);
  if (centred.count < 8 || !(variance > 0)) return out;
  const LagPairs pairs(centred, centred, std::min(most + 1, change.size() - 1));
  const auto r = [&](std::size_t k) { return pairs.covariance(k) / variance; };
  // Changes that go against each other, by more than those of noise do, which
  // is a half, come back after two by themselves.
  const auto wider = [&](std::size_t k) {
    if (r(1) > -0.5) return 1.0;
    double squares = -0.25;
    for (std::size_t j = 1; j < std::min<std::size_t>(k, 4); ++j)
      squares += r(j) * r(j);
    return std::sqrt(std::max(1.0, 1 + 2 * squares));
  };
  for (std::size_t k = 2; k + 1 < pairs.pairs.size() && k <= most; ++k) {
    if (!(r(k) > bound(pairs.pairs[k]) * wider(k)) || r(k) < r(k + 1) ||
        (k > 2 && r(k) < r(k - 1)))
      continue;
    SeasonRule rule{k, false, true, Combine::mean, false};
    Season season(rule);
    std::vector<int> position(change.size());
    for (std::size_t i = 0; i < position.size(); ++i)
      position[i] = static_cast<int>(i % k);
    if (season.find(change.data(), position.data(), change.size()) !=
        SeasonFault::none)
      continue;
    const SeasonTests tests(season);
    double real = 0, imaginary = 0;
    for (std::size_t i = 0; i < change.size(); ++i) {
      const double angle =
          2 * std::acos(-1.0) * static_cast<double>(i) / static_cast<double>(k);
      real += centred.off[i] * std::cos(angle);
      imaginary += centred.off[i] * std::sin(angle);
    }
    const double count = static_cast<double>(season.sorted.size());
    out.push_back(
        {k, r(k),
         1 - (1 - tests.share) * (count - 1) / (count - static_cast<double>(k)),
         2 * (real * real + imaginary * imaginary) /
             (count * centred.squares()),
         tests.variance});
  }
  std::vector<CycleFound> kept;
  std::sort(out.begin(), out.end(),
            [](const CycleFound& a, const CycleFound& b) {
              return a.share > b.share;
            });
  for (const CycleFound& one : out) {
    const bool alone =
        std::all_of(kept.begin(), kept.end(), [&](const CycleFound& other) {
          return 3 * one.cycle > 4 * other.cycle ||
                 4 * one.cycle < 3 * other.cycle;
        });
    const bool multiple =
        std::any_of(out.begin(), out.end(), [&](const CycleFound& other) {
          return one.cycle > other.cycle && one.cycle % other.cycle == 0 &&
                 one.share <= other.share + 0.05;
        });
    if (alone && !multiple) kept.push_back(one);
  }
  return kept;
}

}  // namespace backfill

#endif
