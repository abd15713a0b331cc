// Pieces of work that do not touch each other, done side by side where there
// are processors for it.
#ifndef BACKFILL_SIDE_BY_SIDE_H
#define BACKFILL_SIDE_BY_SIDE_H

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <cstdlib>
#include <future>
#include <system_error>
#include <thread>
#include <vector>

namespace backfill {

constexpr std::size_t most_processors = 4;

// As the environment variable BACKFILL_THREADS says; 0 where it says nothing.
inline std::size_t processors_of_environment() {
  const char* asked = std::getenv("BACKFILL_THREADS");
  const long wanted = asked == nullptr ? 0 : std::strtol(asked, nullptr, 10);
  return wanted > 0 ? static_cast<std::size_t>(wanted) : 0;
}

// How many may be used, 0 for as many as there are. Whoever uses the kernels
// may put a function of his own here.
inline std::size_t (*processors_asked)() = processors_of_environment;

// As many as there are, up to four, or as many as are asked for.
inline std::size_t processors() {
  const std::size_t asked = processors_asked();
  if (asked > 0) return std::min<std::size_t>(asked, 64);
  return std::min(most_processors,
                  static_cast<std::size_t>(
                      std::max(1U, std::thread::hardware_concurrency())));
}

// Calls `work(i)` for each i from 0 to before `count`, in no certain order; it
// must not use R. Where no further thread can be had, those that are there do
// all of it.
template <typename Work>
void side_by_side(std::size_t count, Work work) {
  std::atomic<std::size_t> next{0};
  const auto take = [&] {
    for (std::size_t i = next++; i < count; i = next++) work(i);
  };
  std::vector<std::future<void>> others;
  try {
    for (std::size_t k = 1; k < std::min(count, processors()); ++k) {
      others.push_back(std::async(std::launch::async, take));
    }
  } catch (const std::system_error&) {
  }
  take();
  for (std::future<void>& other : others) other.get();
}

// Calls `work(start, end)` for stretches of 0 to before `n`, side by side where
// that is worth it.
template <typename Work>
void in_stretches(std::ptrdiff_t n, Work work) {
  constexpr std::ptrdiff_t stretch = 1 << 18;
  const std::ptrdiff_t count = (n + stretch - 1) / stretch;
  side_by_side(static_cast<std::size_t>(count), [&](std::size_t i) {
    const std::ptrdiff_t start = static_cast<std::ptrdiff_t>(i) * stretch;
    work(start, std::min(n, start + stretch));
  });
}

}  // namespace backfill

#endif
