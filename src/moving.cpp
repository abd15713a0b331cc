// Doors to moving windows and smoothing along a series. Rows come sorted by
// series, then by period number, without two alike.
#include <algorithm>
#include <numeric>

#include "grid.h"
#include "series.h"
#include "side_by_side.h"
#include "smooth.h"
#include "window_order.h"

using namespace backfill;

namespace {

enum class Statistic {
  mean = 0,
  total = 1,
  spread = 2,
  lowest = 3,
  highest = 4,
  quantile = 5
};

// What is asked of windows: each reaches from `before` periods before a row's
// own, or where `lower` is not null from the period with its number, to `after`
// periods behind it.
struct Asked {
  Statistic statistic;
  double share, enough;
  int before, after;
  const double* lower;
};

// Calls `use(row, figure)` for the windows within the grid that have figures
// enough, and NaN for those that have not.
template <typename Use>
void each_figure(const Grid& grid, double first_number, Rows rows,
                 const Asked& asked, std::ptrdiff_t later, Use use) {
  const std::size_t n = grid.size();
  const double* const x = grid.x();
  const auto window_of = [&](std::size_t row) {
    const std::ptrdiff_t at = static_cast<std::ptrdiff_t>(grid.place(row));
    return Window{asked.lower == nullptr ? at - asked.before + later
                                         : static_cast<std::ptrdiff_t>(
                                               asked.lower[row] - first_number),
                  at + asked.after + 1 + later};
  };
  const auto put = [&](std::size_t row, const Window& window,
                       std::int64_t count, double figure) {
    const bool is =
        count > 0 && static_cast<double>(count) + 1e-9 >=
                         asked.enough * static_cast<double>(window.width());
    use(row, as_r(is ? figure : NA_REAL));
  };
  switch (asked.statistic) {
    case Statistic::mean:
      return each_window<PartSum>(
          x, n, rows, window_of,
          [&](std::size_t row, const Window& window, const PartSum& part) {
            put(row, window, part.count, part.mean());
          });
    case Statistic::total:
      return each_window<PartSum>(
          x, n, rows, window_of,
          [&](std::size_t row, const Window& window, const PartSum& part) {
            const std::int64_t width =
                static_cast<std::int64_t>(window.width());
            put(row, window, part.count,
                part.count == width ? part.sum.value()
                                    : part.mean() * static_cast<double>(width));
          });
    case Statistic::spread:
      return each_window<PartSpread>(
          x, n, rows, window_of,
          [&](std::size_t row, const Window& window, const PartSpread& part) {
            put(row, window, part.count, part.deviation());
          });
    case Statistic::lowest:
      return each_window<PartExtreme<false>>(
          x, n, rows, window_of,
          [&](std::size_t row, const Window& window,
              const PartExtreme<false>& part) {
            put(row, window, part.count, part.best);
          });
    case Statistic::highest:
      return each_window<PartExtreme<true>>(
          x, n, rows, window_of,
          [&](std::size_t row, const Window& window,
              const PartExtreme<true>& part) {
            put(row, window, part.count, part.best);
          });
    case Statistic::quantile:
      return each_window_quantile(x, n, rows, asked.share, window_of, put);
  }
}

// A lower end that would move back, as that of the hours a month before those
// of the 29th to 31st does, stays where it was.
void keep_rising(const Rcpp::IntegerVector& series,
                 std::vector<double>& lower) {
  for (std::size_t i = 1; i < lower.size(); ++i) {
    const R_xlen_t at = static_cast<R_xlen_t>(i);
    if (series[at] == series[at - 1])
      lower[i] = std::max(lower[i], lower[i - 1]);
  }
}

}  // namespace

// A statistic of the window of each row, from `before` periods before its own
// to `after` behind it; where `lower` has numbers, from the period of that
// number on. Where `halves`, the mean of that window and of the one that lies a
// period later. A period without a row counts as missing, never as skipped.
// `enough` is the share of a window's periods that must have a figure. `lost`
// says how many windows reach outside their series.
// [[Rcpp::export(rng = false)]]
Rcpp::List moving_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number,
                      Rcpp::NumericVector value, int before, int after,
                      Rcpp::NumericVector lower, bool halves, int statistic,
                      double share, double enough) {
  Rcpp::NumericVector out(Rcpp::no_init(series.size()));
  std::vector<double> rising(lower.begin(), lower.end());
  keep_rising(series, rising);
  const double* const numbers = number.begin();
  const double* const values = value.begin();
  double* const to = out.begin();

  // Long series are worked on in stretches, whose length does not depend on the
  // processors, nor does what comes out.
  constexpr std::size_t stretch = std::size_t{1} << 17;
  struct Piece {
    std::size_t start, end;  // of the series
    Rows rows;               // of it
  };
  std::vector<Piece> pieces;
  each_series(series, [&](std::size_t start, std::size_t end) {
    const std::size_t rows = end - start;
    const bool dense =
        static_cast<std::size_t>(numbers[end - 1] - numbers[start]) + 1 == rows;
    for (std::size_t first = 0; first < rows; first += dense ? stretch : rows) {
      pieces.push_back(
          {start,
           end,
           {first, dense ? std::min(rows, first + stretch) : rows}});
    }
  });
  std::vector<std::size_t> lost(pieces.size());
  const auto work = [&](std::size_t i) {
    const Piece& piece = pieces[i];
    const Grid grid(numbers + piece.start, values + piece.start,
                    piece.end - piece.start);
    const Asked asked{static_cast<Statistic>(statistic),
                      share,
                      enough,
                      before,
                      after,
                      rising.empty() ? nullptr : rising.data() + piece.start};
    double* const at = to + piece.start;
    const std::size_t count = piece.rows.end - piece.rows.first;
    std::fill(at + piece.rows.first, at + piece.rows.end, NA_REAL);
    std::size_t within = 0;
    each_figure(grid, numbers[piece.start], piece.rows, asked, 0,
                [&](std::size_t row, double figure) {
                  at[row] = figure;
                  ++within;
                });
    if (halves) {
      std::vector<double> first(at + piece.rows.first, at + piece.rows.end);
      std::fill(at + piece.rows.first, at + piece.rows.end, NA_REAL);
      within = 0;
      each_figure(
          grid, numbers[piece.start], piece.rows, asked, 1,
          [&](std::size_t row, double figure) {
            at[row] = as_r((first[row - piece.rows.first] + figure) / 2);
            within += grid.place(row) >= static_cast<std::size_t>(before);
          });
    }
    lost[i] = count - within;
  };
  // Few rows are not worth another processor.
  if (series.size() < 100000) {
    for (std::size_t i = 0; i < pieces.size(); ++i) work(i);
  } else {
    side_by_side(pieces.size(), work);
  }
  return Rcpp::List::create(
      Rcpp::_["value"] = out,
      Rcpp::_["lost"] = static_cast<double>(
          std::accumulate(lost.begin(), lost.end(), std::size_t{0})));
}

// The weighted mean of the window of each row, from `before` periods before its
// own on; every period must have a figure.
// [[Rcpp::export(rng = false)]]
Rcpp::List moving_weighted_cpp(Rcpp::IntegerVector series,
                               Rcpp::NumericVector number,
                               Rcpp::NumericVector value,
                               Rcpp::NumericVector weight, int before) {
  Rcpp::NumericVector out(series.size(), NA_REAL);
  const std::ptrdiff_t width = weight.size();
  double lost = 0;
  each_series(series, [&](std::size_t start, std::size_t end) {
    const Grid grid(number.begin() + start, value.begin() + start, end - start);
    for (std::size_t row = 0; row < end - start; ++row) {
      const std::ptrdiff_t first =
          static_cast<std::ptrdiff_t>(grid.place(row)) - before;
      if (!Window{first, first + width}.within(grid.size())) {
        ++lost;
        continue;
      }
      Sum sum;
      for (std::ptrdiff_t k = 0; k < width; ++k)
        sum.add(weight[k] * grid.x()[first + k]);
      out[static_cast<R_xlen_t>(start + row)] = as_r(sum.value());
    }
  });
  return Rcpp::List::create(Rcpp::_["value"] = out, Rcpp::_["lost"] = lost);
}

// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector smooth_cpp(Rcpp::IntegerVector series,
                               Rcpp::NumericVector value, double alpha) {
  Rcpp::NumericVector out(series.size());
  each_series(series, [&](std::size_t start, std::size_t end) {
    smooth(value.begin() + start, end - start, alpha, out.begin() + start);
  });
  std::transform(out.begin(), out.end(), out.begin(), as_r);
  return out;
}
