// Which slots of their cadence the records of each series fill.
#ifndef BACKFILL_SLOTS_H
#define BACKFILL_SLOTS_H

#include <array>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <unordered_set>
#include <vector>

#include "cadence.h"
#include "moments.h"
#include "lots.h"

namespace backfill {

// A series' cadence, the first and last instant of its records, and whether
// these come in order of time.
struct Slotted {
  Cadence cadence;
  double lowest;
  double highest;
  bool in_order;
};

// Which slots of each series have a record. Of a series in order of time the
// latest one is all there is to know; of others a bit each is kept, or, where
// these would take more memory than the records, the slots that have one. No
// two series share a word, so that they can be worked on side by side.
class SlotSet {
 public:
  SlotSet(const std::vector<Slotted>& series, Clock clock,
          std::size_t records) {
    series_.reserve(series.size());
    const std::size_t most_bits = 128 * records;
    std::size_t bits = 0;
    for (const Slotted& s : series) {
      series_.push_back({0, none, s.in_order ? Way::latest : Way::bits});
      if (s.cadence.steps == Steps::none || s.in_order) continue;
      // Where the local clock is put back, a later instant may lie in an
      // earlier slot: at most a day's worth of hours.
      const std::int64_t margin = s.cadence.steps == Steps::local ? 24 : 0;
      const std::int64_t first =
          s.cadence.slot(s.lowest, clock.local_second(s.lowest)) - margin;
      const std::int64_t last =
          s.cadence.slot(s.highest, clock.local_second(s.highest)) + margin;
      const std::size_t count =
          (static_cast<std::size_t>(last - first + 1) + 63) / 64 * 64;
      if (count > most_bits || bits > most_bits - count) {
        series_.back() = {static_cast<std::int64_t>(hashed_.size()), none,
                          Way::hashed};
        hashed_.emplace_back();
        continue;
      }
      series_.back().start = static_cast<std::int64_t>(bits) - first;
      bits += count;
    }
    bits_.resize(bits / 64);
  }

  // True where the slot was not in the set yet.
  bool insert(std::size_t series, std::int64_t slot) {
    One& one = series_[series];
    if (one.way == Way::latest) {
      if (slot <= one.latest) return false;
      one.latest = slot;
      return true;
    }
    if (one.way == Way::hashed)
      return hashed_[static_cast<std::size_t>(one.start)].insert(slot).second;
    const std::size_t at = static_cast<std::size_t>(one.start + slot);
    const std::uint64_t bit = std::uint64_t{1} << (at & 63);
    std::uint64_t& word = bits_[at >> 6];
    if (word & bit) return false;
    word |= bit;
    return true;
  }

 private:
  enum class Way { latest, bits, hashed };
  static constexpr std::int64_t none = std::numeric_limits<std::int64_t>::min();
  struct One {
    std::int64_t start;  // the bit of slot 0, or which of the hashed sets
    std::int64_t latest;
    Way way;
  };

  std::vector<One> series_;
  std::vector<std::uint64_t> bits_;
  std::vector<std::unordered_set<std::int64_t>> hashed_;
};

// How many distinct slots the records of each series fill, by the weekday of
// their record (Monday first).
class FilledSlots {
 public:
  FilledSlots(const std::vector<Slotted>& slotted, Clock clock,
              std::size_t records)
      : slotted_(slotted),
        clock_(clock),
        seen_(slotted, clock, records),
        filled_(slotted.size()) {}

  void add(const Times& times, const std::int32_t* series) {
    with_moments(times, clock_, [&](auto moments) {
      share_out(series, times.n, slotted_.size(), [=](Lot lot) mutable {
        each_run(series, times.n, lot,
                 [&](std::size_t s, std::size_t first, std::size_t end) {
                   add(moments, s, first, end);
                 });
      });
    });
  }

  const std::vector<std::array<std::int64_t, 7>>& filled() const {
    return filled_;
  }

 private:
  template <typename Moments>
  void add(Moments& moments, std::size_t s, std::size_t first,
           std::size_t end) {
    const Cadence& cadence = slotted_[s].cadence;
    if (cadence.steps == Steps::none) return;
    for (std::size_t i = first; i < end; ++i) {
      const TimedMoment moment = moments[i];
      if (seen_.insert(s, cadence.slot(moment.instant, moment.local))) {
        ++filled_[s][static_cast<std::size_t>(
            weekday(cadence.day(moment.instant, moment.local)) - 1)];
      }
    }
  }

  std::vector<Slotted> slotted_;
  Clock clock_;
  SlotSet seen_;
  std::vector<std::array<std::int64_t, 7>> filled_;
};

}  // namespace backfill

#endif
