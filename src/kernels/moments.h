// The moment of each record as the kernels need it: the instant and the local
// second. Days have no zone and no time of day, which spares them the clock.
#ifndef BACKFILL_MOMENTS_H
#define BACKFILL_MOMENTS_H

#include <cstddef>
#include <cstdint>

#include "clock.h"

namespace backfill {

struct TimedMoment {
  double instant;
  double local;

  std::int64_t day() const { return day_of(local); }
};

class InstantMoments {
 public:
  InstantMoments(const double* at, Clock clock) : at_(at), clock_(clock) {}
  double instant(std::size_t i) const { return at_[i]; }
  TimedMoment operator[](std::size_t i) {
    return {at_[i], clock_.local_second(at_[i])};
  }

 private:
  const double* at_;
  Clock clock_;
};

template <typename Number>
class DayMoments {
 public:
  explicit DayMoments(const Number* day) : day_(day) {}
  double instant(std::size_t i) const {
    return static_cast<double>(day_[i]) * 86400.0;
  }
  TimedMoment operator[](std::size_t i) const {
    return {instant(i), instant(i)};
  }

 private:
  const Number* day_;
};

// Calls `use` with the moments of the times.
template <typename Use>
auto with_moments(const Times& times, Clock clock, Use use) {
  if (times.day != nullptr) return use(DayMoments<std::int32_t>(times.day));
  if (times.scale != 1) return use(DayMoments<double>(times.at));
  return use(InstantMoments(times.at, clock));
}

}  // namespace backfill

#endif
