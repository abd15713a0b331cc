// Pieces of work that do not touch each other, done side by side where there are processors for it.
#ifndef BACKFILL_SIDE_BY_SIDE_H
#define BACKFILL_SIDE_BY_SIDE_H

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <future>
#include <thread>
#include <vector>

namespace backfill {

constexpr std::size_t most_processors = 4;

inline std::size_t processors() {
  return std::min(most_processors, static_cast<std::size_t>(std::max(1U, std::thread::hardware_concurrency())));
}

// Calls `work(i)` for each i from 0 to before `count`, in no certain order; it must not use R.
template <typename Work>
void side_by_side(std::size_t count, Work work) {
  std::atomic<std::size_t> next{0};
  const auto take = [&] {
    for (std::size_t i = next++; i < count; i = next++) work(i);
  };
  std::vector<std::future<void>> others;
  for (std::size_t k = 1; k < std::min(count, processors()); ++k) others.push_back(std::async(std::launch::async, take));
  take();
  for (std::future<void>& other : others) other.get();
}

}  // namespace backfill

#endif
