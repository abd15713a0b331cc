// When a season starts and ends: where the running sum of what lies above and
// below the mean is lowest and highest, in the average year and in each.
#ifndef BACKFILL_SPELLS_H
#define BACKFILL_SPELLS_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <limits>
#include <utility>
#include <vector>

#include "accumulate.h"
#include "basis.h"
#include "draws.h"

namespace backfill {

// `positions` make a cycle. An onset or an end may lie up to `reach` places
// from that of the average year; a share of `present` of the places of a window
// must have values.
struct SpellRule {
  std::size_t positions, seasons, reach;
  double present;
  std::size_t draws;
  std::uint64_t seed;
};

// Positions from 0: the first one of the season and the last, around the cycle.
struct AverageSpell {
  std::size_t onset = 0, end = 0;
  double rise = 0;
};

struct DatedSpell {
  std::size_t season = 0, at = 0;  // `at`: the average onset's place
  // Of the window's places that have values, if the table holds it.
  double share = std::numeric_limits<double>::quiet_NaN();
  bool dated = false;
  std::size_t onset = 0, end = 0;
  double rise = 0;
};

struct SpellsFound {
  std::vector<AverageSpell> average;
  std::vector<DatedSpell> dated;
  std::vector<double> typical;  // of each position
  double mean = std::numeric_limits<double>::quiet_NaN(), p = mean;
};

class SpellFinder {
 public:
  // Of each place its value (NaN where there is none), its position from 0 and
  // its year. `go_on` is asked at each draw; what was found means nothing once
  // it says no.
  SpellFinder(const std::vector<double>& value,
              const std::vector<int>& position, const std::vector<int>& year,
              const SpellRule& rule, std::function<bool()> go_on)
      : value_(value),
        position_(position),
        year_(year),
        rule_(rule),
        go_on_(std::move(go_on)) {}

  SpellsFound find() {
    const Cycle cycle = cycle_of(value_);
    found_.typical = cycle.typical;
    found_.mean = cycle.mean;
    found_.average = spells_of(cycle);
    if (found_.average.size() < rule_.seasons) {
      found_.average.clear();
      return found_;
    }
    for (std::size_t s = 0; s < found_.average.size(); ++s) date(s);
    judge();
    return found_;
  }

 private:
  struct Cycle {
    std::vector<double> typical, weight;
    double mean = 0;
  };

  // The mean at each position, and of these. A position that not every year has
  // counts for as much less.
  Cycle cycle_of(const std::vector<double>& value) const {
    Cycle out;
    out.typical.assign(rule_.positions, 0);
    out.weight.assign(rule_.positions, 0);
    for (std::size_t i = 0; i < value.size(); ++i) {
      if (std::isnan(value[i])) continue;
      const std::size_t p = static_cast<std::size_t>(position_[i]);
      out.typical[p] += value[i];
      ++out.weight[p];
    }
    const double most = *std::max_element(out.weight.begin(), out.weight.end());
    double sum = 0, weights = 0;
    for (std::size_t p = 0; p < rule_.positions; ++p) {
      if (out.weight[p] == 0) {
        out.typical[p] = std::numeric_limits<double>::quiet_NaN();
        continue;
      }
      out.typical[p] /= out.weight[p];
      out.weight[p] /= most;
      sum += out.typical[p] * out.weight[p];
      weights += out.weight[p];
    }
    out.mean = weights > 0 ? sum / weights : 0;
    return out;
  }

  struct Turn {
    std::size_t at;
    double value;
    bool low;
  };

  // Lows and highs of the running sum around the cycle, which come in turns.
  // The two neighbours that differ least are left out until as many are left as
  // there are to be seasons.
  std::vector<AverageSpell> spells_of(const Cycle& cycle) const {
    std::vector<double> running(rule_.positions);
    Sum sum;
    for (std::size_t p = 0; p < rule_.positions; ++p) {
      if (!std::isnan(cycle.typical[p]))
        sum.add((cycle.typical[p] - cycle.mean) * cycle.weight[p]);
      running[p] = sum.value();
    }
    std::vector<Turn> turns = turns_of(running);
    while (turns.size() > 2 * rule_.seasons) drop_least(&turns);
    std::vector<AverageSpell> out;
    for (std::size_t i = 0; i < turns.size(); ++i) {
      if (!turns[i].low) continue;
      const Turn& high = turns[(i + 1) % turns.size()];
      out.push_back({(turns[i].at + 1) % rule_.positions, high.at,
                     high.value - turns[i].value});
    }
    return out;
  }

  std::vector<Turn> turns_of(const std::vector<double>& running) const {
    std::vector<Turn> out;
    const std::size_t n = running.size();
    const std::size_t lowest = static_cast<std::size_t>(
        std::min_element(running.begin(), running.end()) - running.begin());
    const auto at = [&](std::size_t i) { return running[(lowest + i) % n]; };
    bool rising = true;
    out.push_back({lowest, at(0), true});
    for (std::size_t i = 1; i <= n; ++i) {
      if (rising == (at(i) >= at(i - 1))) continue;
      // From 1 on: before a fall there is a rise from the lowest.
      if (i > 1) out.push_back({(lowest + i - 1) % n, at(i - 1), !rising});
      rising = !rising;
    }
    if (out.size() % 2 == 1) out.pop_back();
    return out;
  }

  static void drop_least(std::vector<Turn>* turns) {
    const std::size_t n = turns->size();
    std::size_t least = 0;
    double size = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < n; ++i) {
      const double step =
          std::abs((*turns)[i].value - (*turns)[(i + 1) % n].value);
      if (step < size) size = step, least = i;
    }
    const std::size_t next = (least + 1) % n;
    turns->erase(turns->begin() +
                 static_cast<std::ptrdiff_t>(std::max(least, next)));
    turns->erase(turns->begin() +
                 static_cast<std::ptrdiff_t>(std::min(least, next)));
  }

  // The season in each year: of all stretches of a window about it the one
  // whose sum of departures from the mean is largest.
  void date(std::size_t s) {
    const AverageSpell& average = found_.average[s];
    const std::size_t n = value_.size(),
                      length = (average.end + rule_.positions - average.onset) %
                                   rule_.positions +
                               1;
    for (std::size_t i = 0; i < n; ++i) {
      if (!starts_at(i, average.onset)) continue;
      DatedSpell one;
      one.season = s;
      one.at = i;
      const bool whole = i >= rule_.reach && i + length + rule_.reach <= n;
      if (whole) date_within(i - rule_.reach, i + length + rule_.reach, &one);
      found_.dated.push_back(one);
    }
  }

  // The first place of its year at or behind a position, if the year has not
  // begun behind it.
  bool starts_at(std::size_t i, std::size_t onset) const {
    if (static_cast<std::size_t>(position_[i]) < onset) return false;
    if (i == 0) return static_cast<std::size_t>(position_[i]) == onset;
    return year_[i] != year_[i - 1] ||
           static_cast<std::size_t>(position_[i - 1]) < onset;
  }

  void date_within(std::size_t from, std::size_t to, DatedSpell* one) const {
    double sum = 0, best = 0;
    std::size_t start = from;
    std::size_t known = 0;
    for (std::size_t i = from; i < to; ++i) {
      double off = value_[i] - found_.mean;
      if (std::isnan(off)) {
        // What is usual there.
        off = found_.typical[static_cast<std::size_t>(position_[i])] -
              found_.mean;
        if (std::isnan(off)) off = 0;
      } else {
        ++known;
      }
      if (sum <= 0) sum = 0, start = i;
      sum += off;
      if (sum > best) best = sum, one->onset = start, one->end = i;
    }
    one->share = static_cast<double>(known) / static_cast<double>(to - from);
    one->dated = best > 0 && one->share >= rule_.present;
    one->rise = best;
  }

  // The values without a straight line: what rises from January to December
  // of each year is no season.
  std::vector<double> level() const {
    Column y, place;
    std::vector<int> at;
    for (std::size_t i = 0; i < value_.size(); ++i) {
      if (std::isnan(value_[i])) continue;
      y.push_back(value_[i]), place.push_back(static_cast<double>(i));
      at.push_back(position_[i]);
    }
    Basis basis(at, rule_.positions);
    std::vector<double> out = value_;
    if (!basis.add(place)) return out;
    const double slope = basis.solve(y)[0];
    for (std::size_t i = 0; i < out.size(); ++i)
      out[i] -= slope * static_cast<double>(i);
    return out;
  }

  double rise_of(const std::vector<double>& value) const {
    double out = 0;
    for (const AverageSpell& one : spells_of(cycle_of(value))) out += one.rise;
    return out;
  }

  // Whether the average year rises and falls by more than years do that are
  // each turned about by a random number of places, so that none agrees with
  // another.
  void judge() {
    const std::vector<double> value = level();
    std::vector<double> turned(value.size()), drawn;
    Draws draws(rule_.seed);
    for (std::size_t d = 0; d < rule_.draws && go_on_(); ++d) {
      for (std::size_t from = 0, to = 0; from < value_.size(); from = to) {
        while (to < value_.size() && year_[to] == year_[from]) ++to;
        const std::size_t by = draws.below(to - from);
        for (std::size_t i = from; i < to; ++i)
          turned[i] = value[from + (i - from + by) % (to - from)];
      }
      drawn.push_back(rise_of(turned));
    }
    found_.p = share_beyond(drawn, rule_.draws, rise_of(value));
  }

  const std::vector<double>& value_;
  const std::vector<int>&position_, &year_;
  const SpellRule rule_;
  const std::function<bool()> go_on_;
  SpellsFound found_;
};

}  // namespace backfill

#endif
