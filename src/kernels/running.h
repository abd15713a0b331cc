// Running totals that start anew with each stretch of time, and say where they
// lack a part.
#ifndef BACKFILL_RUNNING_H
#define BACKFILL_RUNNING_H

#include <cmath>
#include <cstddef>
#include <cstdint>

#include "accumulate.h"

namespace backfill {

class RunningTotal {
 public:
  enum class State { given = 0, not_reached = 1, broken = 2 };

  // The periods of one series in turn. `start` is the number of the first
  // period of the stretch that each lies in; where it is NaN there is one
  // stretch, which starts with the first figure.
  State add(double number, double value, double start) {
    const bool never = std::isnan(start);
    if (fresh_ || (!never && start != start_)) {
      sum_ = Sum();
      state_ = never || number == start ? State::given : State::not_reached;
      begun_ = !never;
    } else if (begun_ && number != last_ + 1 && state_ == State::given) {
      state_ = State::broken;
    }
    fresh_ = false;
    start_ = start;
    last_ = number;
    if (std::isnan(value)) {
      if (!begun_) return State::broken;
      if (state_ == State::given) state_ = State::broken;
    } else {
      begun_ = true;
      sum_.add(value);
    }
    return state_;
  }
  double total() const { return sum_.value(); }

 private:
  bool fresh_ = true, begun_ = false;
  double start_ = 0, last_ = 0;
  Sum sum_;
  State state_ = State::given;
};

// The highest, lowest or mean of what was added since the last start.
class RunningStatistic {
 public:
  enum class What { highest = 0, lowest = 1, mean = 2 };

  explicit RunningStatistic(What what) : what_(what) {}
  void start_anew() {
    count_ = 0;
    sum_ = Sum();
  }
  void add(double value) {
    const bool first = count_ == 0;
    ++count_;
    sum_.add(value);
    if (first || (what_ == What::lowest ? value < extreme_ : value > extreme_))
      extreme_ = value;
  }
  double value() const {
    return what_ == What::mean ? sum_.value() / static_cast<double>(count_)
                               : extreme_;
  }

 private:
  What what_;
  std::size_t count_ = 0;
  double extreme_ = 0;
  Sum sum_;
};

}  // namespace backfill

#endif
