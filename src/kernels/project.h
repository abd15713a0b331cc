// A level, a line or a growth through the figures without their season, carried
// on and put back in season; and how far off that would have been in the past,
// each time with what was known by then alone.
#ifndef BACKFILL_PROJECT_H
#define BACKFILL_PROJECT_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "recent.h"
#include "season.h"
#include "trend.h"

namespace backfill {

// The mean of the last cycle, the line through all, that through their
// logarithms, or what follows the recent figures.
enum class Carry { level = 0, line = 1, growth = 2, recent = 3 };

class Projector {
 public:
  Projector(SeasonRule rule, Carry carry)
      : season_(rule), carry_(carry), ways_(rule) {}

  // From the first n figures on, for each place from `from` to before `to`;
  // `position` reaches as far. False where the figures give no index. What is
  // carried on, before its season is put back, goes to `carried` where that is
  // asked for, and the season to `season`.
  bool project(const double* x, const int* position, std::size_t n,
               std::size_t from, std::size_t to, double* out,
               double* carried = nullptr, double* season = nullptr) {
    if (carry_ == Carry::recent)
      return project_recent(x, position, n, from, to, out, carried, season);
    if (season_.find(x, position, n) != SeasonFault::none) return false;
    const SeasonRule& rule = season_.rule();
    const auto own = [&](std::size_t i) { return season_.at(i, position); };
    std::size_t end = n;
    while (std::isnan(x[end - 1])) --end;
    const bool level = carry_ == Carry::level, growth = carry_ == Carry::growth;
    const std::size_t start = level ? end - rule.cycle : 0;
    adjusted_.resize(end - start);
    for (std::size_t i = start; i < end; ++i) {
      const double one = rule.ratio ? x[i] / own(i) : x[i] - own(i);
      // Zero has no logarithm, and no growth starts from it.
      if (growth && one <= 0) return false;
      adjusted_[i - start] = growth ? std::log(one) : one;
    }
    const Line line = fit_line(adjusted_.data(), adjusted_.size());
    if (line.count < (level ? 1 : 2)) return false;
    for (std::size_t i = from; i < to; ++i) {
      const double there =
          level ? line.mean : line.at(static_cast<double>(i - start));
      const double base = growth ? std::exp(there) : there;
      if (carried != nullptr) *carried++ = base, *season++ = own(i);
      *out++ = rule.ratio ? base * own(i) : base + own(i);
    }
    return true;
  }

 private:
  bool project_recent(const double* x, const int* position, std::size_t n,
                      std::size_t from, std::size_t to, double* out,
                      double* carried, double* season) {
    std::size_t end = n;
    while (end > 0 && std::isnan(x[end - 1])) --end;
    Recent known({}, {}, true);
    if (!ways_.follow(x, position, end, known)) return false;
    for (std::size_t i = from; i < to; ++i) {
      const double base = known.level_ahead(static_cast<double>(i + 1 - end));
      const double own = known.index(position[i]);
      if (carried != nullptr) *carried++ = base, *season++ = own;
      *out++ = season_.rule().ratio ? base * own : base + own;
    }
    return true;
  }

  Season season_;
  Carry carry_;
  RecentWays ways_;
  std::vector<double> adjusted_;
};

// The errors of projections made from earlier ends of a series, by how far
// ahead they looked: as shares of the projection where seasons are ratios.
class PastErrors {
 public:
  std::vector<double> squares;  // by horizon, from one period ahead
  std::vector<std::size_t> count;

  static constexpr std::size_t most_ends = 100;

  // `end` is the place behind the last figure.
  PastErrors(Projector& projector, const double* x, const int* position,
             std::size_t end, const SeasonRule& rule, std::size_t horizon)
      : squares(horizon), count(horizon) {
    std::size_t start = 0;
    while (start < end && std::isnan(x[start])) ++start;
    const std::size_t first = start + 2 * rule.cycle;
    if (first >= end) return;
    // Of many ends some, as far from each other as it takes, the latest among
    // them.
    const std::size_t step = (end - first + most_ends - 1) / most_ends;
    std::vector<double> made(horizon);
    for (std::size_t from = end - 1; from >= first; from -= step) {
      const std::size_t to = std::min(end, from + horizon);
      if (!projector.project(x, position, from, from, to, made.data())) break;
      for (std::size_t i = from; i < to; ++i) {
        const double projected = made[i - from];
        const double off = rule.ratio ? x[i] / projected - 1 : x[i] - projected;
        if (std::isnan(off) || (rule.ratio && projected <= 0)) continue;
        squares[i - from] += off * off;
        ++count[i - from];
      }
      if (from < first + step) break;
    }
  }
};

// How far off on average the same method would have been over the last cycle,
// held back, and how far the values of one cycle before.
struct HeldBack {
  std::size_t periods = 0;
  double error = std::numeric_limits<double>::quiet_NaN(),
         percent = error;  // mean absolute ones
  double error_before = std::numeric_limits<double>::quiet_NaN(),
         percent_before = error;  // of the cycle before

  HeldBack(Projector& projector, const double* x, const int* position,
           std::size_t end, std::size_t cycle) {
    if (end <= cycle) return;
    const std::size_t from = end - cycle;
    std::vector<double> made(cycle);
    if (!projector.project(x, position, from, from, end, made.data())) return;
    Sum off, off_before, share, share_before;
    std::size_t shares = 0;
    for (std::size_t i = from; i < end; ++i) {
      const double before = x[i - cycle];
      if (std::isnan(x[i]) || std::isnan(before)) continue;
      ++periods;
      off.add(std::fabs(x[i] - made[i - from]));
      off_before.add(std::fabs(x[i] - before));
      if (x[i] == 0) continue;
      ++shares;
      share.add(std::fabs((x[i] - made[i - from]) / x[i]));
      share_before.add(std::fabs((x[i] - before) / x[i]));
    }
    if (periods == 0) return;
    error = off.value() / static_cast<double>(periods);
    error_before = off_before.value() / static_cast<double>(periods);
    if (shares == 0) return;
    percent = 100 * share.value() / static_cast<double>(shares);
    percent_before = 100 * share_before.value() / static_cast<double>(shares);
  }
};

}  // namespace backfill

#endif
