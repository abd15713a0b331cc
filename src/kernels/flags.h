// Which periods depart from a baseline made of prior periods alone. Each place
// of a regular grid is judged by what came before it and never looked at again.
#ifndef BACKFILL_FLAGS_H
#define BACKFILL_FLAGS_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "past_deviations.h"
#include "project.h"
#include "sorted_blocks.h"

namespace backfill {

enum class Against { previous = 0, cycle = 1, last = 2, season = 3, given = 4 };
enum class Middle { mean = 0, median = 1, smoothed = 2 };

// Whether a limit is not asked for is NaN.
struct FlagRule {
  Against against;
  Middle middle;
  std::size_t last;  // periods or cycles that make the baseline
  std::size_t need;  // of which as many must be there
  double alpha;      // of the smoothed level
  double percent, amount, spreads, robust, quantile, floor;
  std::size_t
      enough;  // past deviations that a limit needs that is made of them
  bool up, down, all, exclude_flagged;
  SeasonRule season;
  std::size_t spread_of;  // of the last so many values, 0: of past deviations
};

// The limits are those of the value; they are NaN as long as too little is
// known, and the place is not judged.
struct Judged {
  double baseline, lower, upper, score;
  std::size_t prior;
  bool flagged;
};

class Flagger {
 public:
  // `widened[n]` is how many standard deviations the limit `spreads` is when n
  // past deviations are all that is known of them, `widened_robust[n]` the same
  // for `robust`.
  Flagger(FlagRule rule, const std::vector<double>& widened,
          const std::vector<double>& widened_robust)
      : rule_(rule),
        widened_(widened),
        widened_robust_(widened_robust),
        season_(rule.season) {}

  // Of n figures, NaN being none. `back` is the place one cycle earlier of each
  // (or -1), `given` a baseline from elsewhere, `position` that in the cycle;
  // each only where the rule asks for it. False where `go_on`, which is asked
  // now and then, says that it should end.
  template <typename GoOn>
  bool judge(const double* x, std::size_t n, const int* back,
             const double* given, const int* position, Judged* out,
             GoOn& go_on) {
    clean_.assign(x, x + n);
    indexed_to_ = 0;
    level_ = std::numeric_limits<double>::quiet_NaN();
    smoothed_count_ = 0;
    PastDeviations past(!std::isnan(rule_.robust) ||
                        !std::isnan(rule_.quantile));
    for (std::size_t t = 0; t < n; ++t) {
      if (t % ask_each == 0 && !go_on()) return false;
      Judged& here = out[t];
      here = {none, none, none, none, 0, false};
      here.baseline = baseline(t, back, given, position, &here.prior);
      if (std::isnan(here.baseline)) {
        learn(t);
        continue;
      }
      limits(past, t, here);
      if (std::isnan(x[t])) continue;
      const double off = (x[t] - here.baseline) / scale(here);
      here.score = score(past, t, off);
      here.flagged = x[t] > here.upper || x[t] < here.lower;
      if (here.flagged && rule_.exclude_flagged) {
        clean_[t] = none;
      } else {
        past.add(off);
      }
      learn(t);
    }
    return true;
  }

 private:
  static constexpr std::size_t ask_each = 4096;
  static constexpr double none = std::numeric_limits<double>::quiet_NaN();

  void learn(std::size_t t) {
    if (std::isnan(clean_[t])) return;
    level_ = std::isnan(level_) ? clean_[t]
                                : level_ + rule_.alpha * (clean_[t] - level_);
    ++smoothed_count_;
  }

  double baseline(std::size_t t, const int* back, const double* given,
                  const int* position, std::size_t* prior) {
    switch (rule_.against) {
      case Against::given:
        *prior = std::isnan(given[t]) ? 0 : 1;
        return given[t];
      case Against::previous:
        *prior = t > 0 && !std::isnan(clean_[t - 1]) ? 1 : 0;
        return *prior == 1 ? clean_[t - 1] : none;
      case Against::cycle: {
        some_.clear();
        std::ptrdiff_t at = static_cast<std::ptrdiff_t>(t);
        for (std::size_t k = 0; k < rule_.last; ++k) {
          at = back[at];
          if (at < 0) break;
          if (!std::isnan(clean_[static_cast<std::size_t>(at)]))
            some_.push_back(clean_[static_cast<std::size_t>(at)]);
        }
        return middle(prior);
      }
      case Against::last:
        if (rule_.middle == Middle::smoothed) {
          *prior = smoothed_count_;
          return smoothed_count_ >= rule_.need ? level_ : none;
        }
        some_.clear();
        for (std::size_t i = t < rule_.last ? 0 : t - rule_.last; i < t; ++i) {
          if (!std::isnan(clean_[i])) some_.push_back(clean_[i]);
        }
        return middle(prior);
      case Against::season:
        return seasonal(t, position, prior);
    }
    return none;
  }

  double middle(std::size_t* prior) {
    *prior = some_.size();
    if (some_.size() < std::max<std::size_t>(rule_.need, 1)) return none;
    if (rule_.middle == Middle::median) std::sort(some_.begin(), some_.end());
    return combined(
        some_.data(), some_.data() + some_.size(),
        rule_.middle == Middle::median ? Combine::median : Combine::mean);
  }

  // The index of all before the cycle that the period is in, times the mean of
  // the last cycle without its season.
  double seasonal(std::size_t t, const int* position, std::size_t* prior) {
    const std::size_t cycle = rule_.season.cycle;
    if (t < 2 * cycle) return none;
    if (indexed_to_ == 0 || t >= indexed_to_ + cycle) {
      indexed_to_ = t;
      indexed_ = season_.find(clean_.data(), position, t) == SeasonFault::none;
    }
    if (!indexed_) {
      indexed_to_ = 0;
      return none;
    }
    const auto own = [&](std::size_t i) {
      return season_.index[static_cast<std::size_t>(position[i])];
    };
    PartSum level;
    for (std::size_t i = t - cycle; i < t; ++i) {
      level.add(rule_.season.ratio ? clean_[i] / own(i) : clean_[i] - own(i));
    }
    *prior = static_cast<std::size_t>(level.count);
    if (*prior < std::max<std::size_t>(rule_.need, 1)) return none;
    return rule_.season.ratio ? level.mean() * own(t) : level.mean() + own(t);
  }

  // A season of ratios varies with its size, so that past deviations are shares
  // of their baselines.
  double scale(const Judged& here) const {
    return rule_.against == Against::season && rule_.season.ratio
               ? here.baseline
               : 1;
  }

  // The standard deviation of the values in the places before; NaN where fewer
  // than half of them are there.
  double recent_spread(std::size_t t) const {
    PartSpread part;
    for (std::size_t i = t < rule_.spread_of ? 0 : t - rule_.spread_of; i < t;
         ++i)
      if (!std::isnan(clean_[i])) part.add(clean_[i]);
    const double least =
        std::max(3.0, static_cast<double>(rule_.spread_of) / 2);
    return static_cast<double>(part.count) < least ? none : part.deviation();
  }

  double score(const PastDeviations& past, std::size_t t, double off) const {
    if (rule_.spread_of > 0) {
      const double spread = recent_spread(t);
      return spread > 0 ? off / spread : none;
    }
    if (past.count() < rule_.enough) return none;
    if (!std::isnan(rule_.robust)) {
      const double spread = past.robust_spread();
      return spread > 0 ? (off - past.median()) / spread : none;
    }
    return past.spread() > 0 ? (off - past.mean()) / past.spread() : none;
  }

  void limits(const PastDeviations& past, std::size_t t, Judged& here) const {
    double high = none, low = none;
    bool lacking = false;
    const auto take = [&](double to_low, double to_high) {
      if (std::isnan(to_high) || std::isnan(to_low)) {
        lacking = true;
        return;
      }
      const bool first = std::isnan(high);
      // Beyond any is beyond the nearest, beyond all beyond the farthest.
      high = first       ? to_high
             : rule_.all ? std::max(high, to_high)
                         : std::min(high, to_high);
      low = first       ? to_low
            : rule_.all ? std::min(low, to_low)
                        : std::max(low, to_low);
    };
    const bool enough = past.count() >= rule_.enough;
    const double times = scale(here);
    if (!std::isnan(rule_.percent)) {
      // A deviation of the floor itself counts: the limit lies a rounding error
      // within it.
      const double least =
          rule_.floor -
          4.5e-16 * std::max(rule_.floor, std::fabs(here.baseline));
      const double reach = std::max(rule_.percent / 100 * here.baseline,
                                    rule_.floor > 0 ? least : 0);
      if (here.baseline > 0)
        take(-reach, reach);
      else
        lacking = true;
    }
    if (!std::isnan(rule_.amount)) take(-rule_.amount, rule_.amount);
    if (!std::isnan(rule_.spreads) && rule_.spread_of > 0) {
      const double reach = rule_.spreads * recent_spread(t);
      take(-reach, reach);
    } else if (!std::isnan(rule_.spreads)) {
      const double reach =
          enough ? widened_[past.count()] * past.spread() : none;
      take(times * (past.mean() - reach), times * (past.mean() + reach));
    }
    if (!std::isnan(rule_.robust)) {
      const double reach =
          enough ? widened_robust_[past.count()] * past.robust_spread() : none;
      take(enough ? times * (past.median() - reach) : none,
           enough ? times * (past.median() + reach) : none);
    }
    if (!std::isnan(rule_.quantile)) {
      const double tail = 1 - rule_.quantile;
      if (!enough)
        lacking = true;
      else if (rule_.up && rule_.down)
        take(times * past.quantile(tail / 2),
             times * past.quantile(1 - tail / 2));
      else if (rule_.up)
        take(-std::numeric_limits<double>::infinity(),
             times * past.quantile(1 - tail));
      else
        take(times * past.quantile(tail),
             std::numeric_limits<double>::infinity());
    }
    if (std::isnan(high) || (rule_.all && lacking)) return;
    here.upper = rule_.up ? here.baseline + high
                          : std::numeric_limits<double>::infinity();
    here.lower = rule_.down ? here.baseline + low
                            : -std::numeric_limits<double>::infinity();
  }

  FlagRule rule_;
  const std::vector<double>&widened_, &widened_robust_;
  Season season_;
  std::vector<double> clean_,
      some_;  // the figures without those that were flagged and are kept out
  std::size_t indexed_to_ = 0, smoothed_count_ = 0;
  bool indexed_ = false;
  double level_ = none;
};

}  // namespace backfill

#endif
