// What the calendar does to a series: a regression on counts of days, beside a
// trend and a season that may both move.
//
// The figures less those of the period before, less the same a cycle before,
// have neither; what is left of their news is a moving average with a part for
// the trend and one for the season (Box, G. E. P. and Jenkins, G. M. (1970).
// Time Series Analysis. Holden-Day), as in Bell, W. R. and Hillmer, S. C.
// (1983). Modeling time series with calendar variation. Journal of the American
// Statistical Association 78, 526-534. How much either keeps to its place is
// not chosen but averaged over a list, by the restricted likelihood of each.
#ifndef BACKFILL_EFFECTS_H
#define BACKFILL_EFFECTS_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <limits>
#include <vector>

#include "differenced.h"
#include "season_parts.h"

namespace backfill {

struct Effects {
  double rows = 0, free = 0;
  Column estimate;
  std::vector<Column> variance;  // square
  Keeping likeliest{0, 0};
  std::vector<std::size_t> apart;  // places of outliers, which are left out
};

// The fit of the last column by the others, which must not hold each other:
// their coefficients, the inverse of their products, and what is left.
struct LeastSquares {
  Column estimate;
  std::vector<Column> inverse;
  double left = 0, logs = 0;
};

inline LeastSquares least_squares(const std::vector<Column>& columns) {
  const std::size_t k = columns.size() - 1;
  // The triangle of columns made orthonormal one after the other, and the same
  // turned round.
  std::vector<Column> own(columns), triangle(k, Column(k, 0));
  Column part(k, 0);
  LeastSquares out;
  for (std::size_t j = 0; j <= k; ++j) {
    for (std::size_t i = 0; i < j; ++i) {
      const double along = product(own[i], own[j]);
      (j < k ? triangle[i][j] : part[i]) = along;
      subtract(&own[j], own[i], along);
    }
    const double length = std::sqrt(product(own[j], own[j]));
    if (j == k) {
      out.left = length * length;
      break;
    }
    triangle[j][j] = length;
    out.logs += std::log(length);
    for (double& one : own[j]) one /= length;
  }
  std::vector<Column> back(k, Column(k, 0));
  for (std::size_t j = 0; j < k; ++j) {
    back[j][j] = 1 / triangle[j][j];
    for (std::size_t i = j; i-- > 0;) {
      double sum = 0;
      for (std::size_t m = i + 1; m <= j; ++m)
        sum += triangle[i][m] * back[m][j];
      back[i][j] = -sum / triangle[i][i];
    }
  }
  out.estimate.assign(k, 0);
  out.inverse.assign(k, Column(k, 0));
  for (std::size_t i = 0; i < k; ++i)
    for (std::size_t m = i; m < k; ++m) {
      out.estimate[i] += back[i][m] * part[m];
      for (std::size_t j = 0; j < k; ++j)
        out.inverse[i][j] += back[i][m] * back[j][m];
    }
  return out;
}

// Which of the counts vary by themselves: a leap day that is among none of the
// periods compared does not, nor a festival that never moves.
inline std::vector<std::size_t> told_apart(const std::vector<Column>& columns) {
  std::vector<std::size_t> kept;
  std::vector<Column> own;
  for (std::size_t j = 0; j + 1 < columns.size(); ++j) {
    Column left = columns[j];
    for (const Column& one : own) subtract(&left, one, product(one, left));
    const double size = product(left, left);
    if (!(size > 1e-9 * product(columns[j], columns[j]))) continue;
    for (double& one : left) one /= std::sqrt(size);
    own.push_back(std::move(left));
    kept.push_back(j);
  }
  return kept;
}

// Two more are used up by how far trend and season keep to their place. Fewer
// degrees of freedom than these tell nothing.
constexpr double least_free = 12;

// `columns` are the differenced counts, and last the differenced figures. What
// is not told apart has no estimate.
inline Effects effects_of(const std::vector<Column>& columns,
                          const std::vector<std::size_t>& at,
                          std::size_t cycle) {
  const std::size_t all = columns.size() - 1;
  const double none = std::numeric_limits<double>::quiet_NaN();
  const std::vector<std::size_t> kept = told_apart(columns);
  const std::size_t k = kept.size();
  Effects out;
  out.rows = static_cast<double>(at.size());
  const double beside = out.rows - static_cast<double>(k);
  out.free = beside - 2;
  out.estimate.assign(all, none);
  out.variance.assign(all, Column(all, none));
  if (out.free < least_free || k == 0) return out;
  std::vector<Column> told;
  for (const std::size_t j : kept) told.push_back(columns[j]);
  told.push_back(columns.back());
  std::vector<LeastSquares> fits;
  Column weight;
  for (const Keeping& keeping : keepings()) {
    std::vector<Column> seen(told);
    const double logs = make_independent(&seen, at, cycle, keeping);
    fits.push_back(least_squares(seen));
    const LeastSquares& fit = fits.back();
    weight.push_back(-beside / 2 * std::log(fit.left) - logs - fit.logs);
  }
  const double most = *std::max_element(weight.begin(), weight.end());
  // Figures without any news of their own.
  if (!std::isfinite(most)) return out;
  out.likeliest = keepings()[static_cast<std::size_t>(
      std::max_element(weight.begin(), weight.end()) - weight.begin())];
  double sum = 0;
  for (double& one : weight) sum += one = std::exp(one - most);
  const auto averaged = [&](auto of) {
    double mean = 0;
    for (std::size_t m = 0; m < fits.size(); ++m)
      mean += weight[m] / sum * of(fits[m]);
    return mean;
  };
  for (std::size_t i = 0; i < k; ++i)
    out.estimate[kept[i]] =
        averaged([&](const LeastSquares& fit) { return fit.estimate[i]; });
  for (std::size_t i = 0; i < k; ++i)
    for (std::size_t j = 0; j < k; ++j)
      out.variance[kept[i]][kept[j]] = averaged([&](const LeastSquares& fit) {
        return fit.inverse[i][j] * fit.left / out.free +
               (fit.estimate[i] - out.estimate[kept[i]]) *
                   (fit.estimate[j] - out.estimate[kept[j]]);
      });
  return out;
}

// Which of the figures stands furthest off what the fit and the other figures
// make of it, if further than chance has the largest of so many; their number
// where none does. Chen, C. and Liu, L.-M. (1993). Joint estimation of model
// parameters and outlier effects in time series. Journal of the American
// Statistical Association 88, 284-297.
inline std::size_t furthest_off(const std::vector<Column>& columns,
                                const std::vector<std::size_t>& at,
                                const std::vector<std::size_t>& place,
                                std::size_t cycle, const Effects& fit) {
  std::vector<Column> seen{columns.back()};
  for (std::size_t j = 0; j + 1 < columns.size(); ++j)
    if (!std::isnan(fit.estimate[j]))
      subtract(&seen[0], columns[j], fit.estimate[j]);
  for (const std::size_t one : place)
    seen.push_back(differenced(
        at, cycle, [one](std::size_t k) { return k == one ? 1.0 : 0.0; }));
  make_independent(&seen, at, cycle, fit.likeliest);
  Column sizes(seen[0]);
  for (double& one : sizes) one = std::fabs(one);
  const auto middle = sizes.begin() + static_cast<long>(sizes.size() / 2);
  std::nth_element(sizes.begin(), middle, sizes.end());
  const double count = static_cast<double>(at.size());
  double most = 1.4826 * *middle * limit_of_largest(count, fit.free);
  std::size_t out = place.size();
  for (std::size_t i = 0; i < place.size(); ++i) {
    const Column& pulse = seen[i + 1];
    const double size = product(pulse, pulse);
    const double off = std::fabs(product(pulse, seen[0])) / std::sqrt(size);
    if (size > 0 && off > most) most = off, out = i;
  }
  return out;
}

// Of a series with figures at `place`: `count(j, place)` is what the calendar
// has there of the j-th of k effects, `figure(place)` the value. No more than
// one figure in 20 is left out as an outlier.
template <typename Count, typename Figure>
Effects effects_along(std::vector<std::size_t> place, std::size_t k,
                      std::size_t cycle, Count count, Figure figure) {
  std::vector<std::size_t> apart;
  const std::size_t most = place.size() / 20;
  Effects before;
  for (;;) {
    const std::vector<std::size_t> at = fully_differenced(place, cycle);
    std::vector<Column> columns;
    for (std::size_t j = 0; j < k; ++j)
      columns.push_back(differenced(
          at, cycle, [&](std::size_t one) { return count(j, one); }));
    columns.push_back(differenced(at, cycle, figure));
    Effects made = effects_of(columns, at, cycle);
    made.apart = apart;
    const bool fitted = std::any_of(made.estimate.begin(), made.estimate.end(),
                                    [](double x) { return !std::isnan(x); });
    // Where too few would be left, the last outlier stays.
    if (!fitted && !apart.empty()) return before;
    if (!fitted || apart.size() == most) return made;
    const std::size_t off = furthest_off(columns, at, place, cycle, made);
    if (off == place.size()) return made;
    before = made;
    apart.push_back(place[off]);
    place.erase(place.begin() + static_cast<long>(off));
  }
}

}  // namespace backfill

#endif
