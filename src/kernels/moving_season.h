// Seasonal indices that move over the cycles, made twice: of what the centred
// average leaves, and of what a line through the adjusted figures around each
// leaves, which reaches to both ends and is not bent by a season that moves.
#ifndef BACKFILL_MOVING_SEASON_H
#define BACKFILL_MOVING_SEASON_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "fading_levels.h"
#include "local_line.h"
#include "season_parts.h"
#include "window.h"

namespace backfill {

class MovingSeason {
 public:
  explicit MovingSeason(SeasonRule rule) : rule_(rule), levels_(rule.ratio) {}

  std::vector<double> index, scale;  // by place, with their normalisers
  double kept() const { return levels_.kept; }

  // Of figures that lie between two places, their reference and their parts,
  // which become those that the index is made of; places whose parts stand
  // apart are added to `left_out`.
  void find(const double* x, const int* position, std::size_t from,
            std::size_t to, std::vector<double>& reference,
            std::vector<double>& part, std::vector<std::size_t>& left_out) {
    double largest = 0;
    for (std::size_t i = from; i < to; ++i)
      if (!std::isnan(x[i])) largest = std::max(largest, std::fabs(x[i]));
    trifle_ = 1e-10 * (rule_.ratio ? 1 : largest);
    follow(position, part, left_out);
    if (rule_.overall) return;
    const std::vector<double> first = index, first_scale = scale;
    std::vector<double> line = reference, left = part;
    refer_to_lines(x, from, to, left_out, line, left);
    std::vector<std::size_t> apart = left_out;
    follow(position, left, apart);
    // Where too little is known around a position, the averages have to do.
    if (std::any_of(index.begin(), index.end(),
                    [](double one) { return std::isnan(one); })) {
      index = first, scale = first_scale;
      return;
    }
    reference.swap(line), part.swap(left), left_out.swap(apart);
  }

 private:
  void follow(const int* position, std::vector<double>& part,
              std::vector<std::size_t>& left_out) {
    levels_.find(part, position, rule_.cycle, trifle_);
    for (std::size_t i : levels_.left_out) {
      part[i] = std::numeric_limits<double>::quiet_NaN();
      left_out.push_back(i);
    }
    std::sort(left_out.begin(), left_out.end());
    index = levels_.level;
    scale.assign(index.size(), rule_.ratio ? 1 : 0);
    if (rule_.normalise) normalise();
  }

  void refer_to_lines(const double* x, std::size_t from, std::size_t to,
                      const std::vector<std::size_t>& left_out,
                      std::vector<double>& line,
                      std::vector<double>& part) const {
    const std::size_t n = to - from,
                      half = std::max<std::size_t>(rule_.cycle - 1, 1);
    std::vector<double> adjusted(x + from, x + to);
    for (std::size_t i : left_out)
      adjusted[i - from] = std::numeric_limits<double>::quiet_NaN();
    for (std::size_t i = 0; i < n; ++i) without(index[from + i], adjusted[i]);
    for (std::size_t i = from; i < to; ++i) {
      line[i] = local_line(adjusted.data(), n, i - from, half);
      if (rule_.ratio && line[i] <= 0)
        line[i] = std::numeric_limits<double>::quiet_NaN();
      part[i] = x[i];
      without(line[i], part[i]);
    }
    for (std::size_t i : left_out)
      part[i] = std::numeric_limits<double>::quiet_NaN();
  }

  void without(double what, double& x) const {
    x = rule_.ratio ? x / what : x - what;
  }

  // So that the indices of the cycle around each place average 1, or 0; those
  // of half a cycle at either end take the normaliser beside them.
  void normalise() {
    const std::size_t n = index.size(), half = rule_.cycle / 2;
    const bool even = rule_.cycle % 2 == 0;
    for (std::size_t i = half; i + half < n; ++i) {
      Sum sum;
      for (std::size_t k = i - half; k <= i + half; ++k) {
        const bool shared = even && (k == i - half || k == i + half);
        sum.add(shared ? index[k] / 2 : index[k]);
      }
      const double mean = sum.value() / static_cast<double>(rule_.cycle);
      scale[i] = rule_.ratio ? 1 / mean : -mean;
    }
    for (std::size_t i = 0; i < n; ++i) {
      scale[i] = scale[std::min(std::max(i, half), n - 1 - half)];
      index[i] = rule_.ratio ? index[i] * scale[i] : index[i] + scale[i];
    }
  }

  SeasonRule rule_;
  FadingLevels levels_;
  double trifle_ = 0;
};

}  // namespace backfill

#endif
