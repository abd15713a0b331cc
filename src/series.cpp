// Doors to what is computed along a series: earlier rows, changes, moving windows, smoothing. Rows come sorted by
// series, then by period number, without two alike.
#include <Rcpp.h>

#include <algorithm>

#include "change.h"
#include "earlier.h"
#include "returns.h"
#include "running.h"
#include "smooth.h"
#include "window_order.h"

using namespace backfill;

namespace {

// Calls `use` with each series' first row and the one behind its last.
template <typename Use>
void each_series(const Rcpp::IntegerVector& series, Use use) {
  const int* const at = series.begin();
  const std::size_t n = static_cast<std::size_t>(series.size());
  for (std::size_t start = 0, end = 0; start < n; start = end) {
    while (end < n && at[end] == at[start]) ++end;
    use(start, end);
  }
}

double as_r(double x) { return std::isnan(x) ? NA_REAL : x; }

}  // namespace

// The row (from 1) of the same series whose period has the wanted number, NA where there is none. `wanted` is a number
// for each row, or one that says how many periods before its own. With `oldest` above 0, the latest row that has a
// figure and is no more than so many periods older.
// [[Rcpp::export]]
Rcpp::IntegerVector find_rows_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number, Rcpp::NumericVector value,
                                  Rcpp::NumericVector wanted, bool back, double oldest) {
  const std::size_t n = static_cast<std::size_t>(series.size());
  std::vector<std::ptrdiff_t> row(n);
  const double* const own = number.begin();
  const double* const asked = wanted.begin();
  const auto find = [&](auto wanted_of) {
    if (oldest > 0) return find_latest(series.begin(), own, value.begin(), wanted_of, oldest, n, row.data());
    find_rows(series.begin(), own, wanted_of, n, row.data());
  };
  if (back) {
    const double by = asked[0];
    find([=](std::size_t i) { return own[i] - by; });
  } else {
    find([=](std::size_t i) { return asked[i]; });
  }
  Rcpp::IntegerVector out(Rcpp::no_init(series.size()));
  std::transform(row.begin(), row.end(), out.begin(),
                 [](std::ptrdiff_t r) { return r == no_row ? NA_INTEGER : static_cast<int>(r + 1); });
  return out;
}

// The change of each row from its base row, or with `ahead` of the base row from the row itself. `form` is a code of
// enum class Form, `counts` says how many rows have each code of enum class Given.
// [[Rcpp::export]]
Rcpp::List change_cpp(Rcpp::NumericVector value, Rcpp::IntegerVector base, bool ahead, int form) {
  const R_xlen_t n = value.size();
  Rcpp::NumericVector out(Rcpp::no_init(n));
  Rcpp::NumericVector counts(5);
  for (R_xlen_t i = 0; i < n; ++i) {
    Given given = Given::no_base;
    double found = NA_REAL;
    if (base[i] != NA_INTEGER) {
      const double own = value[i], other = value[base[i] - 1];
      given = ahead ? change(other, own, static_cast<Form>(form), &found)
                    : change(own, other, static_cast<Form>(form), &found);
    }
    ++counts[static_cast<int>(given)];
    out[i] = as_r(found);
  }
  return Rcpp::List::create(Rcpp::_["value"] = out, Rcpp::_["counts"] = counts);
}

namespace {

enum class Statistic { mean = 0, total = 1, spread = 2, lowest = 3, highest = 4, quantile = 5 };

// Calls `use(i, window, count, figure)` for each window within the grid.
template <typename WindowOf, typename Use>
void each_figure(const double* x, std::size_t n, Statistic statistic, double share, WindowOf window_of, Use use) {
  switch (statistic) {
    case Statistic::mean:
      return each_window<PartSum>(x, n, window_of, [&](std::size_t i, const Window& window, const PartSum& part) {
        use(i, window, part.count, part.mean());
      });
    case Statistic::total:
      return each_window<PartSum>(x, n, window_of, [&](std::size_t i, const Window& window, const PartSum& part) {
        const bool all = part.count == window.width();
        use(i, window, part.count, all ? part.sum.value() : part.mean() * static_cast<double>(window.width()));
      });
    case Statistic::spread:
      return each_window<PartSpread>(x, n, window_of, [&](std::size_t i, const Window& window, const PartSpread& part) {
        const double free = static_cast<double>(part.count) - 1;
        use(i, window, part.count, free > 0 ? std::sqrt(part.squares / free) : NA_REAL);
      });
    case Statistic::lowest:
      return each_window<PartExtreme<false>>(
          x, n, window_of, [&](std::size_t i, const Window& window, const PartExtreme<false>& part) {
            use(i, window, part.count, part.best);
          });
    case Statistic::highest:
      return each_window<PartExtreme<true>>(
          x, n, window_of, [&](std::size_t i, const Window& window, const PartExtreme<true>& part) {
            use(i, window, part.count, part.best);
          });
    case Statistic::quantile:
      return each_window_quantile(x, n, share, window_of, use);
  }
}

// The figures of a series on its regular grid: as they stand where no row is missing, else put to their places.
class Grid {
 public:
  Grid(const double* number, const double* value, std::size_t rows) : number_(number) {
    size_ = static_cast<std::size_t>(number[rows - 1] - number[0]) + 1;
    if (size_ == rows) {
      x_ = value;
      return;
    }
    spread_.assign(size_, NA_REAL);
    for (std::size_t i = 0; i < rows; ++i) spread_[place(i)] = value[i];
    x_ = spread_.data();
  }
  const double* x() const { return x_; }
  std::size_t size() const { return size_; }
  std::size_t place(std::size_t row) const { return static_cast<std::size_t>(number_[row] - number_[0]); }

 private:
  const double* number_;
  std::size_t size_;
  std::vector<double> spread_;
  const double* x_;
};

}  // namespace

// A statistic of the window of each row, from `before` periods before its own to `after` behind it; where `lower` has
// numbers, from the period of that number on. Where `halves`, the mean of that window and of the one that lies a
// period later. A period without a row counts as missing, never as skipped. `enough` is the share of a window's periods
// that must have a figure. `lost` says how many windows reach outside their series.
// [[Rcpp::export]]
Rcpp::List moving_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number, Rcpp::NumericVector value, int before,
                      int after, Rcpp::NumericVector lower, bool halves, int statistic, double share, double enough) {
  Rcpp::NumericVector out(Rcpp::no_init(series.size()));
  double lost = 0;
  each_series(series, [&](std::size_t start, std::size_t end) {
    const Grid grid(number.begin() + start, value.begin() + start, end - start);
    const std::size_t rows = end - start;
    double* const to = out.begin() + start;
    std::fill(to, to + rows, NA_REAL);
    const bool dense = grid.size() == rows;
    // A lower end that would move back, as the hours a month before those of the 29th to 31st do, stays where it was.
    std::vector<double> first_number(lower.size() == 0 ? 0 : rows);
    for (std::size_t row = 0; row < first_number.size(); ++row) {
      const double one = lower[static_cast<R_xlen_t>(start + row)];
      first_number[row] = row > 0 ? std::max(one, first_number[row - 1]) : one;
    }
    const auto window_at = [&](std::size_t row, std::ptrdiff_t later) {
      const std::ptrdiff_t at = static_cast<std::ptrdiff_t>(dense ? row : grid.place(row));
      const std::ptrdiff_t first = first_number.empty() ? at - before + later
                                                        : static_cast<std::ptrdiff_t>(first_number[row] - number[start]);
      return Window{first, at + after + 1 + later};
    };
    const auto go = [&](std::ptrdiff_t later, auto put) {
      // Windows are asked for row by row, which is as good as period by period: neither end moves back.
      each_figure(grid.x(), grid.size(), static_cast<Statistic>(statistic), share,
                  [&](std::size_t row) { return row < rows ? window_at(row, later) : Window{-1, -1}; },
                  [&](std::size_t row, const Window& window, std::size_t count, double figure) {
                    const bool is = count > 0 && static_cast<double>(count) + 1e-9 >= enough * static_cast<double>(window.width());
                    put(row, as_r(is ? figure : NA_REAL));
                  });
    };
    go(0, [&](std::size_t row, double figure) { to[row] = figure; });
    if (halves) {
      std::vector<double> later(rows, NA_REAL);
      go(1, [&](std::size_t row, double figure) { later[row] = figure; });
      for (std::size_t i = 0; i < rows; ++i) to[i] = as_r((to[i] + later[i]) / 2);
    }
    for (std::size_t row = 0; row < rows; ++row) {
      lost += !window_at(row, 0).within(grid.size()) || (halves && !window_at(row, 1).within(grid.size()));
    }
  });
  return Rcpp::List::create(Rcpp::_["value"] = out, Rcpp::_["lost"] = lost);
}

// The weighted mean of the window of each row, from `before` periods before its own on; every period must have a
// figure.
// [[Rcpp::export]]
Rcpp::List moving_weighted_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number, Rcpp::NumericVector value,
                               Rcpp::NumericVector weight, int before) {
  Rcpp::NumericVector out(series.size(), NA_REAL);
  const std::ptrdiff_t width = weight.size();
  double lost = 0;
  each_series(series, [&](std::size_t start, std::size_t end) {
    const Grid grid(number.begin() + start, value.begin() + start, end - start);
    for (std::size_t row = 0; row < end - start; ++row) {
      const std::ptrdiff_t first = static_cast<std::ptrdiff_t>(grid.place(row)) - before;
      if (!Window{first, first + width}.within(grid.size())) {
        ++lost;
        continue;
      }
      Sum sum;
      for (std::ptrdiff_t k = 0; k < width; ++k) sum.add(weight[k] * grid.x()[first + k]);
      out[static_cast<R_xlen_t>(start + row)] = as_r(sum.value());
    }
  });
  return Rcpp::List::create(Rcpp::_["value"] = out, Rcpp::_["lost"] = lost);
}

// [[Rcpp::export]]
Rcpp::NumericVector smooth_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector value, double alpha) {
  Rcpp::NumericVector out(series.size());
  each_series(series, [&](std::size_t start, std::size_t end) {
    smooth(value.begin() + start, end - start, alpha, out.begin() + start);
  });
  std::transform(out.begin(), out.end(), out.begin(), as_r);
  return out;
}

// Running totals; `start` is the number of the first period of the stretch that each row lies in, or one NA for totals
// that never start anew. `counts` says how many rows have each code of enum class RunningTotal::State.
// [[Rcpp::export]]
Rcpp::List running_total_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number, Rcpp::NumericVector value,
                             Rcpp::NumericVector start) {
  Rcpp::NumericVector out(series.size(), NA_REAL), counts(3);
  each_series(series, [&](std::size_t first, std::size_t end) {
    RunningTotal total;
    for (R_xlen_t i = static_cast<R_xlen_t>(first); i < static_cast<R_xlen_t>(end); ++i) {
      const RunningTotal::State state = total.add(number[i], value[i], start[start.size() == 1 ? 0 : i]);
      ++counts[static_cast<int>(state)];
      if (state == RunningTotal::State::given) out[i] = total.total();
    }
  });
  return Rcpp::List::create(Rcpp::_["value"] = out, Rcpp::_["counts"] = counts);
}

// `what` is a code of enum class Return.
// [[Rcpp::export]]
Rcpp::List returns_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number, Rcpp::NumericVector value, int what) {
  Rcpp::NumericVector out(series.size());
  ReturnCounts counts;
  each_series(series, [&](std::size_t start, std::size_t end) {
    returns(number.begin() + start, value.begin() + start, end - start, static_cast<Return>(what), out.begin() + start,
            counts);
  });
  std::transform(out.begin(), out.end(), out.begin(), as_r);
  const auto count = [](std::size_t n) { return static_cast<double>(n); };
  return Rcpp::List::create(
      Rcpp::_["value"] = out,
      Rcpp::_["counts"] = Rcpp::NumericVector::create(
          Rcpp::_["first"] = count(counts.first), Rcpp::_["not_whole"] = count(counts.not_whole),
          Rcpp::_["not_positive"] = count(counts.not_positive), Rcpp::_["longer"] = count(counts.longer)));
}
