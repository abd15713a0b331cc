// Whether the days of a week have one shape, that is the same course from slot
// to slot about their own mean. Whole days keep together: by chance they are
// given other weekdays.
#ifndef BACKFILL_DAY_SHAPES_H
#define BACKFILL_DAY_SHAPES_H

#include <cstddef>
#include <limits>
#include <utility>
#include <vector>

#include "draws.h"

namespace backfill {

class DayShapes {
 public:
  explicit DayShapes(std::size_t slots) : slots_(slots) {}

  // A whole day of values, and which weekday it is (from 0).
  void add(const std::vector<double>& day, std::size_t weekday) {
    double sum = 0;
    for (double x : day) sum += x;
    const double mean = sum / static_cast<double>(slots_);
    for (double x : day) {
      shapes_.push_back(x - mean);
      squares_ += (x - mean) * (x - mean);
    }
    weekdays_.push_back(weekday);
  }

  // The share of the variation of shapes that lies between weekdays; NaN where
  // fewer than two weekdays have two days each.
  double share() const {
    std::size_t count[7] = {}, enough = 0;
    for (std::size_t d : weekdays_) enough += ++count[d] == 2;
    return enough < 2 || !(squares_ > 0)
               ? std::numeric_limits<double>::quiet_NaN()
               : between(weekdays_) / squares_;
  }

  // The share of the draws, the days as they are among them, in which the
  // weekdays differ as much.
  double chance(std::size_t draws, std::uint64_t seed) const {
    Draws drawn(seed);
    std::vector<std::size_t> weekdays = weekdays_;
    std::vector<double> found;
    for (std::size_t i = 0; i < draws; ++i) {
      for (std::size_t k = weekdays.size(); k > 1; --k)
        std::swap(weekdays[k - 1], weekdays[drawn.below(k)]);
      found.push_back(between(weekdays));
    }
    return share_beyond(found, draws, between(weekdays_));
  }

 private:
  double between(const std::vector<std::size_t>& weekdays) const {
    std::vector<double> sum(8 * slots_);
    double count[7] = {};
    for (std::size_t day = 0; day < weekdays.size(); ++day) {
      const double* const shape = shapes_.data() + day * slots_;
      double* const own = sum.data() + weekdays[day] * slots_;
      double* const all = sum.data() + 7 * slots_;
      count[weekdays[day]] += 1;
      for (std::size_t h = 0; h < slots_; ++h) {
        own[h] += shape[h];
        all[h] += shape[h];
      }
    }
    double out = 0;
    for (std::size_t h = 0; h < slots_; ++h) {
      const double all = sum[7 * slots_ + h];
      out -= all * all / static_cast<double>(weekdays.size());
      for (std::size_t d = 0; d < 7; ++d) {
        const double own = sum[d * slots_ + h];
        if (count[d] > 0) out += own * own / count[d];
      }
    }
    return out;
  }

  std::size_t slots_;
  std::vector<double> shapes_;
  std::vector<std::size_t> weekdays_;
  double squares_ = 0;
};

}  // namespace backfill

#endif
