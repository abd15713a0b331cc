// The clock of a zone: instants (seconds since 1970-01-01 UTC) to the local day
// and second, by a table of the moments at which the zone's offset changes. The
// last segment used is kept at hand, so that a record costs two comparisons.
#ifndef BACKFILL_CLOCK_H
#define BACKFILL_CLOCK_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>

#include "civil.h"

namespace backfill {

// Rounded down; quicker than std::floor(), which is a call on many machines.
inline std::int64_t floor_of(double x) {
  const std::int64_t whole = static_cast<std::int64_t>(x);
  return whole - (x < static_cast<double>(whole));
}

inline std::int64_t day_of(double local_second) {
  return floor_of(local_second / 86400.0);
}

// The records' times as R holds them: days (scale 86,400), as whole numbers or
// not, or seconds (scale 1), read as seconds without a copy.
struct Times {
  const double* at;         // null where they are
  const std::int32_t* day;  // whole numbers
  std::size_t n;
  double scale;

  double operator[](std::size_t i) const {
    return (day == nullptr ? at[i] : day[i]) * scale;
  }
};

class Clock {
 public:
  // `from[i]` is the instant from which `offset[i]` (seconds east of UTC)
  // holds; `from` rises and starts at -Inf.
  Clock(const double* from, const double* offset, std::size_t n)
      : from_(from),
        offset_(offset),
        n_(n),
        per_second_(n > 2 ? static_cast<double>(n - 2) / (from[n - 1] - from[1])
                          : 0) {
    seek(0);
  }

  double local_second(double instant) {
    if (instant < lower_ || instant >= upper_) seek(find(instant));
    return instant + current_;
  }

 private:
  // Clocks change about as often in one year as in another, so that the segment
  // is near to where its share of the time puts it.
  std::size_t find(double instant) const {
    if (n_ <= few) {
      // Counted without a branch that could be guessed wrongly.
      std::size_t before = 0;
      for (std::size_t k = 1; k < n_; ++k)
        before += instant >= from_[k] ? 1U : 0U;
      return before;
    }
    if (!(instant >= from_[1])) return 0;
    std::size_t i = 1 + static_cast<std::size_t>(
                            std::min((instant - from_[1]) * per_second_,
                                     static_cast<double>(n_ - 2)));
    while (instant < from_[i]) --i;
    while (i + 1 < n_ && instant >= from_[i + 1]) ++i;
    return i;
  }

  static constexpr std::size_t few = 16;

  void seek(std::size_t i) {
    lower_ = from_[i];
    upper_ =
        i + 1 < n_ ? from_[i + 1] : std::numeric_limits<double>::infinity();
    current_ = offset_[i];
  }

  const double* from_;
  const double* offset_;
  std::size_t n_;
  double per_second_;  // segments a second
  double lower_, upper_, current_;
};

// The other way: what a local clock shows to the instant. Where a clock is put
// forward some times are never shown, where it is put back some are shown
// twice.
class LocalClock {
 public:
  enum class Shown { once, twice, never };

  LocalClock(const double* from, const double* offset, std::size_t n)
      : from_(from), offset_(offset), n_(n) {}

  // `first` is the instant, or the first of two, of which `again` is the
  // second.
  Shown instant(double local, double* first, double* again) {
    if (!(local >= starts(at_) && local < starts(at_ + 1))) at_ = find(local);
    *first = local - offset_[at_];
    if (at_ > 0 && local < from_[at_] + offset_[at_ - 1]) {
      *again = *first;
      *first = local - offset_[at_ - 1];
      return Shown::twice;
    }
    // Behind the end of this segment and before the start of the next.
    return at_ + 1 < n_ && local >= from_[at_ + 1] + offset_[at_] ? Shown::never
                                                                  : Shown::once;
  }

  // The instant, or the first of two; of a time that is never shown the first
  // instant after it.
  double first_instant(double local) {
    double first = 0, again = 0;
    return instant(local, &first, &again) == Shown::never ? from_[at_ + 1]
                                                          : first;
  }

 private:
  double starts(std::size_t i) const {
    return i < n_ ? from_[i] + offset_[i]
                  : std::numeric_limits<double>::infinity();
  }

  std::size_t find(double local) const {
    std::size_t low = 0, high = n_;
    while (high - low > 1) {
      const std::size_t middle = (low + high) / 2;
      (local >= starts(middle) ? low : high) = middle;
    }
    return low;
  }

  const double* from_;
  const double* offset_;
  std::size_t n_;
  std::size_t at_ = 0;
};

}  // namespace backfill

#endif
