// The door to the shapes of days.
#include "day_shapes.h"

#include <Rcpp/Lightest>

#include <cmath>
#include <vector>

#include "series.h"

using namespace backfill;

// Rows come sorted by series, then by number; `position` is that in a week of
// 7 times `slots`, from 0. A row of the result for each series: the share of
// the variation of shapes that lies between weekdays, and its chance.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix day_shapes_cpp(Rcpp::IntegerVector series,
                                   Rcpp::NumericVector number,
                                   Rcpp::IntegerVector position,
                                   Rcpp::NumericVector part, int slots,
                                   int draws, double seed) {
  const std::vector<Ends> ends = ends_of_series(series);
  Rcpp::NumericMatrix out(static_cast<int>(ends.size()), 2);
  std::vector<double> day;
  for (std::size_t s = 0; s < ends.size(); ++s) {
    Rcpp::checkUserInterrupt();
    DayShapes shapes(static_cast<std::size_t>(slots));
    day.clear();
    for (std::size_t i = ends[s].start; i < ends[s].end; ++i) {
      const R_xlen_t row = static_cast<R_xlen_t>(i);
      const int slot = position[row] % slots;
      const bool follows = !day.empty() && number[row] == number[row - 1] + 1 &&
                           slot == static_cast<int>(day.size());
      if (!follows) day.clear();
      if (std::isnan(part[row]) || (!follows && slot != 0)) {
        day.clear();
        continue;
      }
      day.push_back(part[row]);
      if (static_cast<int>(day.size()) < slots) continue;
      shapes.add(day, static_cast<std::size_t>(position[row] / slots));
      day.clear();
    }
    const double share = shapes.share();
    const int line = static_cast<int>(s);
    out(line, 0) = as_r(share);
    out(line, 1) = std::isnan(share)
                       ? NA_REAL
                       : shapes.chance(static_cast<std::size_t>(draws),
                                       static_cast<std::uint64_t>(seed));
  }
  return out;
}
