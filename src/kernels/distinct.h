// The distinct keys of a long run, each with a number by the order of first
// appearance: a hash table with open places. Records mostly repeat a key, or
// have the keys of the rows before in the same order again, so these two are
// tried first.
#ifndef BACKFILL_DISTINCT_H
#define BACKFILL_DISTINCT_H

#include <cstddef>
#include <cstdint>
#include <vector>

namespace backfill {

class Distinct {
 public:
  Distinct() : place_(1024) {}

  // The number of the key, from 0; `fresh` says that it is new.
  std::int32_t number(std::uint64_t key, bool* fresh) {
    *fresh = false;
    if (last_ >= 0 && key_[static_cast<std::size_t>(last_)] == key)
      return last_;
    // Where the guess at what follows has mostly been wrong, as in shuffled
    // rows, it is not worth its own cost.
    if (hits_ < 0) return last_ = look_up(key, fresh);
    if (last_ >= 0) {
      const std::int32_t next = next_[static_cast<std::size_t>(last_)];
      if (next >= 0 && key_[static_cast<std::size_t>(next)] == key) {
        hits_ += hits_ < most_hits;
        return last_ = next;
      }
      --hits_;
    }
    const std::int32_t found = look_up(key, fresh);
    if (last_ >= 0) next_[static_cast<std::size_t>(last_)] = found;
    return last_ = found;
  }

 private:
  std::int32_t look_up(std::uint64_t key, bool* fresh) {
    std::size_t at = home(key);
    for (; place_[at].number >= 0; at = (at + 1) & (place_.size() - 1)) {
      if (place_[at].key == key) return place_[at].number;
    }
    *fresh = true;
    place_[at] = {key, static_cast<std::int32_t>(key_.size())};
    key_.push_back(key);
    next_.push_back(-1);
    if (key_.size() * 2 > place_.size()) grow();
    return static_cast<std::int32_t>(key_.size() - 1);
  }

  std::size_t home(std::uint64_t key) const {
    key ^= key >> 32;
    key *= 0x9e3779b97f4a7c15ULL;
    return static_cast<std::size_t>(key >> 20) & (place_.size() - 1);
  }

  void grow() {
    place_.assign(place_.size() * 4, {});
    for (std::size_t i = 0; i < key_.size(); ++i) {
      std::size_t at = home(key_[i]);
      while (place_[at].number >= 0) at = (at + 1) & (place_.size() - 1);
      place_[at] = {key_[i], static_cast<std::int32_t>(i)};
    }
  }

  struct Place {
    std::uint64_t key = 0;
    std::int32_t number = -1;  // of none
  };
  static constexpr int most_hits = 1000;

  std::vector<Place> place_;
  std::vector<std::uint64_t> key_;
  std::vector<std::int32_t>
      next_;  // the number that followed each the last time
  std::int32_t last_ = -1;
  int hits_ = most_hits;  // how well the guess has done of late
};

}  // namespace backfill

#endif
