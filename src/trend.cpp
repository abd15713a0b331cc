// Doors to straight lines and projections. Rows come sorted by series, then by
// period number, without two alike.
#include "trend.h"

#include <vector>

#include "grid.h"
#include "mean_error.h"
#include "project.h"
#include "series.h"
#include "side_by_side.h"

using namespace backfill;

// The line through each series, a column each: its level at the series' first
// row, slope per period, mean and number of the figures, R squared, lag-1
// autocorrelation of the residuals, how many independent figures they are
// worth, and the standard error of the slope.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix trend_cpp(Rcpp::IntegerVector series,
                              Rcpp::NumericVector number,
                              Rcpp::NumericVector value) {
  std::vector<double> all;
  each_series(series, [&](std::size_t start, std::size_t end) {
    const Grid grid(number.begin() + start, value.begin() + start, end - start);
    const Line line = fit_line(grid.x(), grid.size());
    const LineError error = error_of_line(line, grid.x(), grid.size());
    for (double x :
         {line.level, line.slope, line.mean, static_cast<double>(line.count),
          error.r_squared, error.autocorrelation, error.worth, error.error}) {
      all.push_back(as_r(x));
    }
  });
  Rcpp::NumericMatrix out(8, static_cast<int>(all.size() / 8));
  std::copy(all.begin(), all.end(), out.begin());
  return out;
}

// The mean of each series, a column each: the number of figures, their mean,
// how many independent ones they are worth, its standard error, and how likely
// it is that they wander. `position` (from 0, NA where there is no season to
// take out) is that of each row.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix mean_error_cpp(Rcpp::IntegerVector series,
                                   Rcpp::NumericVector number,
                                   Rcpp::NumericVector value,
                                   Rcpp::IntegerVector position, int cycle) {
  const std::vector<Ends> ends = ends_of_series(series);
  Rcpp::NumericMatrix out(5, static_cast<int>(ends.size()));
  double* const to = out.begin();
  const double *const numbers = number.begin(), *const values = value.begin();
  const int* const positions = position.begin();
  side_by_side(ends.size(), [&](std::size_t k) {
    Column y, place;
    std::vector<int> at;
    for (std::size_t i = ends[k].start; i < ends[k].end; ++i) {
      if (std::isnan(values[i])) continue;
      y.push_back(values[i]), place.push_back(numbers[i]);
      if (positions[i] != NA_INTEGER) at.push_back(positions[i]);
    }
    const MeanError made =
        error_of_mean(y, place, at, static_cast<std::size_t>(cycle));
    const double figures[] = {static_cast<double>(made.count), made.mean,
                              made.worth, made.error, made.wanders};
    for (std::size_t j = 0; j < 5; ++j) to[5 * k + j] = as_r(figures[j]);
  });
  return out;
}

// The memories that residuals may have: what they keep of the period before,
// their noise, and how much each counts beforehand.
// [[Rcpp::export(rng = false)]]
Rcpp::DataFrame memories_cpp() {
  std::vector<double> keep, noise, weight;
  for (const Thought& one : memories()) {
    keep.push_back(one.memory.keep), noise.push_back(one.memory.noise);
    weight.push_back(one.weight);
  }
  return Rcpp::DataFrame::create(Rcpp::_["keep"] = keep,
                                 Rcpp::_["noise"] = noise,
                                 Rcpp::_["weight"] = weight);
}

// The projection of each series over `horizon` periods behind its last row;
// `position` (from 0) is that of the numbers from `first` on. By horizon and
// series: the projection, what is carried on to it, and the root mean square
// and the number of past errors so far ahead; by series: the periods held back,
// the mean absolute error and percentage error, the same of the cycle before,
// and the same of the other base.
// [[Rcpp::export(rng = false)]]
Rcpp::List project_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number,
                       Rcpp::NumericVector value, Rcpp::IntegerVector position,
                       double first, int cycle, bool ratio, bool overall,
                       int combine, int base, int other_base, int horizon) {
  const SeasonRule rule{static_cast<std::size_t>(cycle), ratio, overall,
                        static_cast<Combine>(combine), true};
  const std::vector<Ends> ends = ends_of_series(series);
  const int count = static_cast<int>(ends.size());
  Rcpp::NumericMatrix projection(horizon, count), error(horizon, count),
      errors(horizon, count), carried(horizon, count), season(horizon, count),
      check(7, count);
  std::fill(projection.begin(), projection.end(), NA_REAL);
  std::fill(error.begin(), error.end(), NA_REAL);
  std::fill(carried.begin(), carried.end(), NA_REAL);
  std::fill(season.begin(), season.end(), NA_REAL);
  std::fill(check.begin(), check.end(), NA_REAL);
  const double *const numbers = number.begin(), *const values = value.begin();
  const int* const position_at = position.begin();
  double
      *const projection_to = projection.begin(),
             *const error_to = error.begin(), *const errors_to = errors.begin(),
             *const carried_to = carried.begin(),
             *const season_to = season.begin(), *const check_to = check.begin();
  const std::size_t steps = static_cast<std::size_t>(horizon);
  side_by_side(ends.size(), [&](std::size_t s) {
    const std::size_t start = ends[s].start;
    const Grid grid(numbers + start, values + start, ends[s].end - start);
    const int* const at =
        position_at + static_cast<std::ptrdiff_t>(numbers[start] - first);
    const std::size_t n = grid.size();
    std::size_t end = n;
    while (end > 0 && std::isnan(grid.x()[end - 1])) --end;
    Projector projector(rule, static_cast<Carry>(base));
    if (end == 0 ||
        !projector.project(grid.x(), at, end, n, n + steps,
                           projection_to + s * steps, carried_to + s * steps,
                           season_to + s * steps))
      return;
    // Rows behind the last figure put the projection further ahead of it.
    const std::size_t gap = n - end;
    const PastErrors past(projector, grid.x(), at, end, rule, steps + gap);
    for (std::size_t h = 0; h < steps; ++h) {
      const std::size_t errors_there = past.count[h + gap];
      errors_to[s * steps + h] = static_cast<double>(errors_there);
      if (errors_there > 0)
        error_to[s * steps + h] = std::sqrt(past.squares[h + gap] /
                                            static_cast<double>(errors_there));
    }
    const HeldBack held(projector, grid.x(), at, end, rule.cycle);
    Projector other_projector(rule, static_cast<Carry>(other_base));
    const HeldBack other(other_projector, grid.x(), at, end, rule.cycle);
    const double known[] = {static_cast<double>(held.periods),
                            held.error,
                            held.percent,
                            held.error_before,
                            held.percent_before,
                            other.error,
                            other.percent};
    std::transform(std::begin(known), std::end(known), check_to + s * 7, as_r);
  });
  return Rcpp::List::create(
      Rcpp::_["projection"] = projection, Rcpp::_["carried"] = carried,
      Rcpp::_["season"] = season, Rcpp::_["error"] = error,
      Rcpp::_["errors"] = errors, Rcpp::_["check"] = check);
}
