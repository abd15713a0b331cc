// How far what is left of a fit may hang together, neighbour by neighbour: not
// one memory but each of a list, by how likely what is left makes it. One that
// hides behind noise, which the lag-1 autocorrelation hardly shows, is among
// them.
#ifndef BACKFILL_MEMORY_H
#define BACKFILL_MEMORY_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <vector>

#include "basis.h"
#include "draws.h"

namespace backfill {

// Remainders are what is kept from period to period, and noise of a share of
// the variance beside it. With a `keep` of 1 they wander: `noise` is then its
// share beside one step.
struct Memory {
  double keep, noise;

  bool wanders() const { return keep >= 1; }
  double kept_over(double gap) const {
    return wanders() ? 1 : std::pow(keep, gap);
  }
  // What is new of the part with memory, `gap` periods on.
  double news_over(double gap) const {
    const double part = kept_over(gap);
    return wanders() ? (1 - noise) * gap : (1 - noise) * (1 - part * part);
  }
};

// Those that are thought of, and how much each counts beforehand. Chosen by
// simulation: what is found in noise is hardly less than without any memory,
// what wanders seldom passes for a trend.
struct Thought {
  Memory memory;
  double weight;
};

inline const std::vector<Thought>& memories() {
  static const std::vector<Thought> all = [] {
    std::vector<Thought> out{{{0, 0}, 60}};
    for (double keep : {0.2, 0.4, 0.6, 0.8, 0.9, 0.95})
      for (double noise : {0.0, 0.3, 0.6, 0.85})
        out.push_back({{keep, noise}, keep > 0.7 && noise > 0.5 ? 0.5 : 1});
    for (double noise : {0.0, 0.8, 0.94, 0.985}) out.push_back({{1, noise}, 2});
    return out;
  }();
  return all;
}

// What each value has that those before it do not tell, in units of its error;
// the same for every column of a fit. The filter of Kalman (1960), with one
// state.
struct Whitened {
  std::vector<Column> columns;
  double log_spread = 0;  // sum of the logarithms of the variances
};

inline Whitened whiten(std::vector<Column> columns, const Column& place,
                       const Memory& memory) {
  Whitened out;
  Column state(columns.size());
  double variance = 1 - memory.noise;
  for (std::size_t i = 0; i < place.size(); ++i) {
    if (i > 0) {
      const double gap = place[i] - place[i - 1], part = memory.kept_over(gap);
      variance = part * part * variance + memory.news_over(gap);
      for (double& one : state) one *= part;
    }
    const double all = variance + memory.noise, share = variance / all;
    out.log_spread += std::log(all);
    for (std::size_t j = 0; j < columns.size(); ++j) {
      const double off = columns[j][i] - state[j];
      state[j] += share * off;
      columns[j][i] = off / std::sqrt(all);
    }
    variance *= 1 - share;
  }
  out.columns = std::move(columns);
  return out;
}

// x' V x for the matrix V of covariances of a memory. Of remainders that wander
// the sum of x must be 0.
inline double spread_of(const Column& x, const Column& place,
                        const Memory& memory) {
  double sum = memory.noise * product(x, x), behind = 0;
  if (memory.wanders()) {
    for (std::size_t i = x.size(); i-- > 1;) {
      behind += x[i];
      sum += memory.news_over(place[i] - place[i - 1]) * behind * behind;
    }
    return sum;
  }
  const double own = 1 - memory.noise;
  for (std::size_t i = 0; i < x.size(); ++i) {
    if (i > 0) behind *= memory.kept_over(place[i] - place[i - 1]);
    sum += own * x[i] * (x[i] + 2 * behind);
    behind += x[i];
  }
  return sum;
}

// One memory, how likely it is, and the variance of the remainders by it.
struct Likely {
  Memory memory;
  double weight, variance;
};

// By the restricted likelihood of y beside the columns of a fit, which need not
// be orthogonal: Harville, D. A. (1977). Maximum likelihood approaches to
// variance component estimation and to related problems. Journal of the
// American Statistical Association 72, 320-338.
inline std::vector<Likely> likely_memories(const Column& y,
                                           std::vector<Column> beside,
                                           const Column& place) {
  std::vector<Likely> out;
  beside.push_back(y);
  const double free =
      static_cast<double>(y.size()) - static_cast<double>(beside.size() - 1);
  Column logs;
  for (const Thought& one_of : memories()) {
    const Memory memory = one_of.memory;
    Whitened seen = whiten(beside, place, memory);
    double log_lengths = 0, left = 0;
    for (std::size_t j = 0; j < seen.columns.size(); ++j) {
      Column& one = seen.columns[j];
      const double whole = product(one, one);
      for (std::size_t i = 0; i < j; ++i)
        subtract(&one, seen.columns[i], product(seen.columns[i], one));
      left = product(one, one);
      if (j + 1 == seen.columns.size()) break;
      if (!(left > 1e-10 * whole)) {  // the ones before hold it already
        std::fill(one.begin(), one.end(), 0.0);
        continue;
      }
      log_lengths += std::log(left);
      for (double& value : one) value /= std::sqrt(left);
    }
    out.push_back({memory, 0, left / free});
    // Nothing is left, and nothing hangs together.
    if (out.size() == 1 && !(left > 1e-20 * product(y, y)))
      return {{memory, 1, std::max(0.0, left / free)}};
    logs.push_back(-(free * std::log(left) + seen.log_spread + log_lengths) /
                   2);
  }
  const double most = *std::max_element(logs.begin(), logs.end());
  double all = 0;
  for (std::size_t i = 0; i < out.size(); ++i)
    all += out[i].weight = memories()[i].weight * std::exp(logs[i] - most);
  for (Likely& one : out) one.weight /= all;
  return out;
}

// The variance of the sum of x times the remainders.
inline double variance_of(const Column& x, const Column& place,
                          const std::vector<Likely>& likely) {
  double out = 0;
  for (const Likely& one : likely)
    out += one.weight * one.variance * spread_of(x, place, one.memory);
  return out;
}

// Series made like what is left of a fit, by one of its memories each: of its
// own news, in random order.
class Remaking {
 public:
  Remaking(const Column& left, const Column& y,
           const std::vector<Column>& beside, const Column& place)
      : place_(place), likely_(likely_memories(y, beside, place)) {
    const Likely most = *std::max_element(
        likely_.begin(), likely_.end(),
        [](const Likely& a, const Likely& b) { return a.weight < b.weight; });
    news_ = whiten({left}, place, most.memory).columns[0];
    const double n = static_cast<double>(news_.size());
    double mean = 0, squares = 0;
    for (double one : news_) mean += one / n;
    for (double& one : news_) one -= mean, squares += one * one / n;
    for (double& one : news_) one /= squares > 0 ? std::sqrt(squares) : 1;
  }

  Column made(Draws* draws) const {
    const Likely& of = picked(draws->share());
    const Memory& memory = of.memory;
    const double size = std::sqrt(of.variance),
                 noise = size * std::sqrt(memory.noise);
    const auto drawn = [&] { return news_[draws->below(news_.size())]; };
    double state = size * std::sqrt(1 - memory.noise) * drawn();
    Column out(news_.size());
    for (std::size_t i = 0; i < out.size(); ++i) {
      if (i > 0) {
        const double gap = place_[i] - place_[i - 1];
        state = memory.kept_over(gap) * state +
                size * std::sqrt(memory.news_over(gap)) * drawn();
      }
      out[i] = state + (noise > 0 ? noise * drawn() : 0);
    }
    return out;
  }

 private:
  const Likely& picked(double share) const {
    for (const Likely& one : likely_)
      if ((share -= one.weight) < 0) return one;
    return likely_.front();
  }

  const Column& place_;
  std::vector<Likely> likely_;
  Column news_;
};

}  // namespace backfill

#endif
