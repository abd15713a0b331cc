// Doors to what is computed along a series: earlier rows, changes, moving windows, smoothing. Rows come sorted by
// series, then by period number, without two alike.
#include <Rcpp.h>

#include <algorithm>
#include <array>
#include <cstring>
#include <numeric>

#include "change.h"
#include "distinct.h"
#include "earlier.h"
#include "returns.h"
#include "running.h"
#include "side_by_side.h"
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
  Rcpp::IntegerVector out(Rcpp::no_init(series.size()));
  int* const to = out.begin();
  const auto put = [=](std::size_t i, std::ptrdiff_t row) {
    to[i] = row == no_row ? NA_INTEGER : static_cast<int>(row + 1);
  };
  const double* const own = number.begin();
  const double* const asked = wanted.begin();
  const auto find = [&](auto wanted_of) {
    if (oldest > 0) return find_latest(series.begin(), own, value.begin(), wanted_of, oldest, n, put);
    find_rows(series.begin(), own, wanted_of, n, put);
  };
  if (back) {
    const double by = asked[0];
    find([=](std::size_t i) { return own[i] - by; });
  } else {
    find([=](std::size_t i) { return asked[i]; });
  }
  return out;
}

// The change of each row from its base row, or with `ahead` of the base row from the row itself. `form` is a code of
// enum class Form, `counts` says how many rows have each code of enum class Given.
// [[Rcpp::export]]
Rcpp::List change_cpp(Rcpp::NumericVector value, Rcpp::IntegerVector base, bool ahead, int form) {
  const R_xlen_t n = value.size();
  Rcpp::NumericVector out(Rcpp::no_init(n));
  double* const to = out.begin();
  const double* const x = value.begin();
  const int* const row = base.begin();
  std::array<double, 5> counts{};
  for (R_xlen_t i = 0; i < n; ++i) {
    Given given = Given::no_base;
    double found = NA_REAL;
    if (row[i] != NA_INTEGER) {
      const double own = x[i], other = x[row[i] - 1];
      given = ahead ? change(other, own, static_cast<Form>(form), &found)
                    : change(own, other, static_cast<Form>(form), &found);
    }
    ++counts[static_cast<std::size_t>(given)];
    to[i] = as_r(found);
  }
  return Rcpp::List::create(Rcpp::_["value"] = out, Rcpp::_["counts"] = std::vector<double>(counts.begin(), counts.end()));
}

namespace {

enum class Statistic { mean = 0, total = 1, spread = 2, lowest = 3, highest = 4, quantile = 5 };

// The figures of a series on its regular grid: as they stand where no row is missing, else put to their places.
class Grid {
 public:
  Grid(const double* number, const double* value, std::size_t rows) : number_(number), x_(value), rows_(rows) {
    size_ = static_cast<std::size_t>(number[rows - 1] - number[0]) + 1;
    if (dense()) return;
    spread_.assign(size_, NA_REAL);
    for (std::size_t i = 0; i < rows; ++i) spread_[place(i)] = value[i];
  }
  const double* x() const { return dense() ? x_ : spread_.data(); }
  std::size_t size() const { return size_; }
  bool dense() const { return size_ == rows_; }
  std::size_t place(std::size_t row) const { return dense() ? row : static_cast<std::size_t>(number_[row] - number_[0]); }

 private:
  const double* number_;
  const double* x_;
  std::size_t rows_, size_;
  std::vector<double> spread_;
};

// What is asked of windows: each reaches from `before` periods before a row's own, or where `lower` is not null from the
// period with its number, to `after` periods behind it.
struct Asked {
  Statistic statistic;
  double share, enough;
  int before, after;
  const double* lower;
};

// Calls `use(row, figure)` for the windows within the grid that have figures enough, and NaN for those that have not.
template <typename Use>
void each_figure(const Grid& grid, double first_number, Rows rows, const Asked& asked, std::ptrdiff_t later, Use use) {
  const std::size_t n = grid.size();
  const double* const x = grid.x();
  const auto window_of = [&](std::size_t row) {
    const std::ptrdiff_t at = static_cast<std::ptrdiff_t>(grid.place(row));
    return Window{asked.lower == nullptr ? at - asked.before + later
                                         : static_cast<std::ptrdiff_t>(asked.lower[row] - first_number),
                  at + asked.after + 1 + later};
  };
  const auto put = [&](std::size_t row, const Window& window, std::int64_t count, double figure) {
    const bool is = count > 0 && static_cast<double>(count) + 1e-9 >= asked.enough * static_cast<double>(window.width());
    use(row, as_r(is ? figure : NA_REAL));
  };
  switch (asked.statistic) {
    case Statistic::mean:
      return each_window<PartSum>(x, n, rows, window_of, [&](std::size_t row, const Window& window, const PartSum& part) {
        put(row, window, part.count, part.mean());
      });
    case Statistic::total:
      return each_window<PartSum>(x, n, rows, window_of, [&](std::size_t row, const Window& window, const PartSum& part) {
        const std::int64_t width = static_cast<std::int64_t>(window.width());
        put(row, window, part.count,
            part.count == width ? part.sum.value() : part.mean() * static_cast<double>(width));
      });
    case Statistic::spread:
      return each_window<PartSpread>(
          x, n, rows, window_of, [&](std::size_t row, const Window& window, const PartSpread& part) {
            const double free = static_cast<double>(part.count) - 1;
            put(row, window, part.count, free > 0 ? std::sqrt(part.squares / free) : NA_REAL);
          });
    case Statistic::lowest:
      return each_window<PartExtreme<false>>(
          x, n, rows, window_of, [&](std::size_t row, const Window& window, const PartExtreme<false>& part) {
            put(row, window, part.count, part.best);
          });
    case Statistic::highest:
      return each_window<PartExtreme<true>>(
          x, n, rows, window_of, [&](std::size_t row, const Window& window, const PartExtreme<true>& part) {
            put(row, window, part.count, part.best);
          });
    case Statistic::quantile:
      return each_window_quantile(x, n, rows, asked.share, window_of, put);
  }
}

// A lower end that would move back, as that of the hours a month before those of the 29th to 31st does, stays where it
// was.
void keep_rising(const Rcpp::IntegerVector& series, std::vector<double>& lower) {
  for (std::size_t i = 1; i < lower.size(); ++i) {
    const R_xlen_t at = static_cast<R_xlen_t>(i);
    if (series[at] == series[at - 1]) lower[i] = std::max(lower[i], lower[i - 1]);
  }
}

}  // namespace

// A statistic of the window of each row, from `before` periods before its own to `after` behind it; where `lower` has
// numbers, from the period of that number on. Where `halves`, the mean of that window and of the one that lies a
// period later. A period without a row counts as missing, never as skipped. `enough` is the share of a window's periods
// that must have a figure. `lost` says how many windows reach outside their series.
// [[Rcpp::export]]
Rcpp::List moving_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number, Rcpp::NumericVector value, int before,
                      int after, Rcpp::NumericVector lower, bool halves, int statistic, double share, double enough) {
  Rcpp::NumericVector out(Rcpp::no_init(series.size()));
  std::vector<double> rising(lower.begin(), lower.end());
  keep_rising(series, rising);
  const double* const numbers = number.begin();
  const double* const values = value.begin();
  double* const to = out.begin();

  // Long series are worked on in stretches, whose length does not depend on the processors, nor does what comes out.
  constexpr std::size_t stretch = std::size_t{1} << 17;
  struct Piece {
    std::size_t start, end;  // of the series
    Rows rows;               // of it
  };
  std::vector<Piece> pieces;
  each_series(series, [&](std::size_t start, std::size_t end) {
    const std::size_t rows = end - start;
    const bool dense = static_cast<std::size_t>(numbers[end - 1] - numbers[start]) + 1 == rows;
    for (std::size_t first = 0; first < rows; first += dense ? stretch : rows) {
      pieces.push_back({start, end, {first, dense ? std::min(rows, first + stretch) : rows}});
    }
  });
  std::vector<std::size_t> lost(pieces.size());
  const auto work = [&](std::size_t i) {
    const Piece& piece = pieces[i];
    const Grid grid(numbers + piece.start, values + piece.start, piece.end - piece.start);
    const Asked asked{static_cast<Statistic>(statistic), share, enough, before, after,
                      rising.empty() ? nullptr : rising.data() + piece.start};
    double* const at = to + piece.start;
    const std::size_t count = piece.rows.end - piece.rows.first;
    std::fill(at + piece.rows.first, at + piece.rows.end, NA_REAL);
    std::size_t within = 0;
    each_figure(grid, numbers[piece.start], piece.rows, asked, 0, [&](std::size_t row, double figure) {
      at[row] = figure;
      ++within;
    });
    if (halves) {
      std::vector<double> first(at + piece.rows.first, at + piece.rows.end);
      std::fill(at + piece.rows.first, at + piece.rows.end, NA_REAL);
      within = 0;
      each_figure(grid, numbers[piece.start], piece.rows, asked, 1, [&](std::size_t row, double figure) {
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
  return Rcpp::List::create(Rcpp::_["value"] = out,
                            Rcpp::_["lost"] = static_cast<double>(std::accumulate(lost.begin(), lost.end(), std::size_t{0})));
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

// Each distinct time once, by its first row, and which of them each row has.
// [[Rcpp::export]]
Rcpp::List distinct_times_cpp(SEXP when) {
  const R_xlen_t n = Rf_xlength(when);
  Rcpp::IntegerVector at(Rcpp::no_init(n));
  int* const to = at.begin();
  std::vector<int> first;
  Distinct distinct;
  const auto look = [&](auto key_of) {
    for (R_xlen_t i = 0; i < n; ++i) {
      bool fresh;
      to[i] = distinct.number(key_of(i), &fresh) + 1;
      if (fresh) first.push_back(static_cast<int>(i + 1));
    }
  };
  if (TYPEOF(when) == INTSXP) {
    const int* const days = INTEGER(when);
    look([=](R_xlen_t i) { return static_cast<std::uint64_t>(static_cast<std::uint32_t>(days[i])); });
  } else {
    const double* const times = REAL(when);
    look([=](R_xlen_t i) {
      std::uint64_t bits;
      std::memcpy(&bits, &times[i], sizeof bits);
      return bits;
    });
  }
  return Rcpp::List::create(Rcpp::_["first"] = Rcpp::wrap(first), Rcpp::_["at"] = at);
}

// Runs of rows with the same values in all columns: the number of each row's run, and the first row of each.
// [[Rcpp::export]]
Rcpp::List runs_cpp(Rcpp::List columns) {
  const R_xlen_t n = Rf_xlength(columns[0]);
  std::vector<unsigned char> starts(static_cast<std::size_t>(n), 0);
  if (n > 0) starts[0] = 1;
  for (R_xlen_t j = 0; j < columns.size(); ++j) {
    const SEXP column = columns[j];
    const auto mark = [&](const auto* values) {
      for (R_xlen_t i = 1; i < n; ++i) {
        if (std::memcmp(&values[i], &values[i - 1], sizeof *values) != 0) starts[static_cast<std::size_t>(i)] = 1;
      }
    };
    switch (TYPEOF(column)) {
      case STRSXP: mark(STRING_PTR_RO(column)); break;
      case LGLSXP: case INTSXP: mark(INTEGER(column)); break;
      case REALSXP: mark(REAL(column)); break;
      // Of other columns each row is a run of its own.
      default: std::fill(starts.begin(), starts.end(), 1);
    }
  }
  Rcpp::IntegerVector run(Rcpp::no_init(n));
  int* const to = run.begin();
  std::vector<int> first;
  for (R_xlen_t i = 0; i < n; ++i) {
    if (starts[static_cast<std::size_t>(i)]) first.push_back(static_cast<int>(i + 1));
    to[i] = static_cast<int>(first.size());
  }
  return Rcpp::List::create(Rcpp::_["run"] = run, Rcpp::_["first"] = Rcpp::wrap(first));
}

// Whether numbers rise from row to row within each run.
// [[Rcpp::export]]
bool rises_cpp(Rcpp::IntegerVector run, Rcpp::NumericVector number) {
  const int* const at = run.begin();
  const double* const x = number.begin();
  bool rises = true;
  for (R_xlen_t i = 1; i < run.size(); ++i) rises = rises & ((at[i] != at[i - 1]) | (x[i] > x[i - 1]));
  return rises;
}

// The values whose standing is one of the codes in `whole`, NA for the others.
// [[Rcpp::export]]
Rcpp::NumericVector whole_values_cpp(Rcpp::NumericVector value, Rcpp::IntegerVector standing,
                                     Rcpp::IntegerVector whole) {
  Rcpp::NumericVector out(Rcpp::no_init(value.size()));
  std::array<bool, 256> keeps{};
  for (const int code : whole) keeps.at(static_cast<std::size_t>(code)) = true;
  const double* const from = value.begin();
  const int* const code = standing.begin();
  double* const to = out.begin();
  for (R_xlen_t i = 0; i < value.size(); ++i) {
    const bool is = code[i] != NA_INTEGER && keeps[static_cast<unsigned char>(code[i])];
    to[i] = is ? as_r(from[i]) : NA_REAL;
  }
  return out;
}
