// Which slots of their cadence the records of each series fill.
#ifndef BACKFILL_SLOTS_H
#define BACKFILL_SLOTS_H

#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "cadence.h"
#include "clock.h"

namespace backfill {

// A series' cadence, and the first and last instant of its records.
struct Slotted {
  Cadence cadence;
  double lowest;
  double highest;
};

// One bit for each slot of each series.
class SlotSet {
 public:
  SlotSet(const std::vector<Slotted>& series, Clock clock) {
    start_.reserve(series.size());
    std::size_t bits = 0;
    for (const Slotted& s : series) {
      if (s.cadence.steps == Steps::none) {
        start_.push_back(0);
        continue;
      }
      // Where the local clock is put back, a later instant may lie in an earlier slot: at most a day's worth of hours.
      const std::int64_t margin = s.cadence.steps == Steps::local ? 24 : 0;
      const std::int64_t first = s.cadence.slot(s.lowest, clock.local_second(s.lowest)) - margin;
      const std::int64_t last = s.cadence.slot(s.highest, clock.local_second(s.highest)) + margin;
      start_.push_back(static_cast<std::int64_t>(bits) - first);
      bits += static_cast<std::size_t>(last - first + 1);
    }
    bits_.resize((bits + 63) / 64);
  }

  // True where the slot was not in the set yet.
  bool insert(std::size_t series, std::int64_t slot) {
    const std::size_t at = static_cast<std::size_t>(start_[series] + slot);
    const std::uint64_t bit = std::uint64_t{1} << (at & 63);
    std::uint64_t& word = bits_[at >> 6];
    if (word & bit) return false;
    word |= bit;
    return true;
  }

 private:
  std::vector<std::int64_t> start_;  // the bit of a series' slot 0
  std::vector<std::uint64_t> bits_;
};

// How many distinct slots the records of each series fill, by the weekday of their record (Monday first). Where
// `series` is null, all records are of one series.
inline std::vector<std::array<std::int64_t, 7>> filled_slots(const Times& times, Clock clock,
                                                             const std::int32_t* series,
                                                             const std::vector<Slotted>& slotted) {
  std::vector<std::array<std::int64_t, 7>> filled(slotted.size());
  SlotSet seen(slotted, clock);
  for (std::size_t i = 0; i < times.n; ++i) {
    const std::size_t s = series == nullptr ? 0 : static_cast<std::size_t>(series[i] - 1);
    if (slotted[s].cadence.steps == Steps::none) continue;
    const double local = clock.local_second(times[i]);
    if (seen.insert(s, slotted[s].cadence.slot(times[i], local))) {
      ++filled[s][static_cast<std::size_t>(weekday(day_of(local)) - 1)];
    }
  }
  return filled;
}

}  // namespace backfill

#endif
