// Random numbers that are the same on every machine, which those of the
// standard's distributions are not.
#ifndef BACKFILL_DRAWS_H
#define BACKFILL_DRAWS_H

#include <cmath>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <random>
#include <vector>

namespace backfill {

class Draws {
 public:
  explicit Draws(std::uint64_t seed) : engine_(seed) {}
  // From 0 to below `end`; no number is likelier than another.
  std::size_t below(std::size_t end) {
    const std::uint64_t most = std::numeric_limits<std::uint64_t>::max();
    const std::uint64_t limit = most - most % end;
    std::uint64_t drawn = engine_();
    while (drawn >= limit) drawn = engine_();
    return static_cast<std::size_t>(drawn % end);
  }
  // From 0 to below 1.
  double share() { return static_cast<double>(below(1u << 30)) / (1u << 30); }

 private:
  std::mt19937_64 engine_;
};

// The share of the draws, the data among them, that lie as far out as `own` or
// further. Of fewer than `tried` draws those that failed count as further.
// Davison, A. C. and Hinkley, D. V. (1997). Bootstrap Methods and their
// Application, section 4.3. Cambridge University Press.
inline double share_beyond(const std::vector<double>& drawn, std::size_t tried,
                           double own) {
  const double hair = 1 - 1e-9;  // alike but for rounding
  double within = 0;
  for (double one : drawn) within += std::abs(one) < own * hair;
  const double all = static_cast<double>(tried) + 1;
  return (all - within) / all;
}

}  // namespace backfill

#endif
