// After how many periods a series seems to come back. Cycles of any shape are
// looked for in its changes from period to period, in which a trend and a level
// that wanders leave little; smooth ones in waves, which stand out from what a
// series with its memory gives anyway.
#ifndef BACKFILL_CYCLES_H
#define BACKFILL_CYCLES_H

#include <algorithm>
#include <cmath>
#include <complex>
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

// The sum of squares that a wave of so many periods explains of figures, NaN
// being none; `take` has it taken off them.
inline double wave_in(std::vector<double>* x, double period, bool take) {
  const std::complex<double> turn =
      std::polar(1.0, 2 * std::acos(-1.0) / period);
  double cc = 0, cs = 0, ss = 0, xc = 0, xs = 0;
  const auto each = [&](auto use) {
    double c = 1, s = 0;
    for (double& one : *x) {
      if (!std::isnan(one)) use(&one, c, s);
      const double next = c * turn.real() - s * turn.imag();
      s = c * turn.imag() + s * turn.real();
      c = next;
    }
  };
  each([&](double* one, double c, double s) {
    cc += c * c, cs += c * s, ss += s * s, xc += *one * c, xs += *one * s;
  });
  const double both = cc * ss - cs * cs;
  if (!(both > 1e-9 * cc * ss)) return 0;
  const double a = (xc * ss - xs * cs) / both, b = (xs * cc - xc * cs) / both;
  if (take)
    each([&](double* one, double c, double s) { *one -= a * c + b * s; });
  return a * xc + b * xs;
}

struct WaveFound {
  std::size_t cycle;
  double coefficient;  // autocorrelation of the figures about their line
  double share;        // of their variance that lies in the wave
  double p;            // that the highest of all would stand out as far
};

// Waves of 3 periods to a third of the series, each judged against the larger
// of two backgrounds of what is left without it: that of figures with its
// memory at lag 1, and the waves beside it. Torrence, C. and Compo, G. P.
// (1998). A practical guide to wavelet analysis. Bulletin of the American
// Meteorological Society 79, section 4.
class Waves {
 public:
  Waves(const double* x, std::size_t n) : left_(x, x + n) {
    double count = 0, place = 0, mean = 0;
    each([&](double at, double one) { ++count, place += at, mean += one; });
    if (count < 12) return;
    place /= count, mean /= count;
    double squares = 0, products = 0;
    each([&](double at, double one) {
      squares += (at - place) * (at - place);
      products += (at - place) * (one - mean);
    });
    for (std::size_t i = 0; i < n; ++i)
      left_[i] -= mean + products / squares * (static_cast<double>(i) - place);
    count_ = count;
    all_ = sum_of_squares();
    whole_ = left_;
  }

  // The three highest at most, as long as they stand out.
  std::vector<WaveFound> find(double sure) {
    std::vector<WaveFound> out;
    while (out.size() < 3 && all_ > 0 && sum_of_squares() > 1e-12 * all_) {
      const std::size_t cycle = highest();
      if (cycle == 0) break;
      const double period = static_cast<double>(cycle);
      const double squares = wave_in(&left_, period, true);
      const double p = chance(squares, period);
      if (!(p < sure)) break;
      // A wave that is not smooth has overtones.
      for (double part : {2.0, 3.0, 4.0})
        if (period / part > 2) wave_in(&left_, period / part, true);
      out.push_back({cycle, together(whole_, cycle), squares / all_, p});
    }
    return out;
  }

 private:
  template <typename Use>
  void each(Use use) const {
    for (std::size_t i = 0; i < left_.size(); ++i)
      if (!std::isnan(left_[i])) use(static_cast<double>(i), left_[i]);
  }

  double sum_of_squares() const {
    double out = 0;
    each([&](double, double one) { out += one * one; });
    return out;
  }

  static double together(const std::vector<double>& x, std::size_t lag) {
    double products = 0, squares = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
      if (std::isnan(x[i])) continue;
      squares += x[i] * x[i];
      if (i >= lag && !std::isnan(x[i - lag])) products += x[i] * x[i - lag];
    }
    return squares > 0 ? products / squares : 0;
  }

  // The memory of what is left, which few figures show too little of, and its
  // variance.
  void look() {
    const double seen = together(left_, 1);
    memory_ = std::min(0.95, std::max(0.0, seen + (1 + 4 * seen) / count_));
    variance_ = sum_of_squares() / (count_ - 4);
  }

  // What waves of a period explain on average of such figures.
  double background(double period) const {
    return variance_ * (1 - memory_ * memory_) /
           (1 + memory_ * memory_ -
            2 * memory_ * std::cos(2 * std::acos(-1.0) / period));
  }

  std::size_t highest() {
    const double n = static_cast<double>(left_.size());
    // No more steps than a moment has.
    const double most = std::min(count_ / 3, 1e7 / n);
    look();
    std::size_t best = 0;
    double height = 0;
    for (std::size_t k = 3; static_cast<double>(k) <= most; ++k) {
      const double period = static_cast<double>(k),
                   over = wave_in(&left_, period, false) / background(period);
      if (over > height) height = over, best = k;
    }
    return best;
  }

  double chance(double squares, double period) {
    const double n = static_cast<double>(left_.size());
    look();
    double beside = 0, waves = 0;
    for (double step : {-4.0, -3.0, -2.0, 2.0, 3.0, 4.0}) {
      const double frequency = 1 / period + step / n;
      if (frequency <= 0.5 / n || frequency >= 0.5) continue;
      beside += wave_in(&left_, 1 / frequency, false) / 2;
      ++waves;
    }
    const double base =
        std::max(background(period), waves > 0 ? beside / waves : 0.0);
    // F with 2 and `free` degrees of freedom; of as many waves as there are
    // apart from each other.
    const double free = count_ - 4;
    const double one = std::pow(1 + squares / base / free, -free / 2);
    return -std::expm1(n / 2 * std::log1p(-one));
  }

  std::vector<double> left_, whole_;
  double count_ = 0, all_ = 0, memory_ = 0, variance_ = 0;
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
