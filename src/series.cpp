// Doors to the rows of a table of series: where they are in order, and which
// lie some periods before them.
#include "series.h"

#include <algorithm>
#include <array>
#include <cstring>

#include "distinct.h"
#include "earlier.h"
#include "side_by_side.h"

using namespace backfill;

// The row (from 1) of the same series whose period has the wanted number, NA
// where there is none. `wanted` is a number for each row, or one that says how
// many periods before its own. With `max_age` above 0, the latest row that has
// a figure and is no more than so many periods older.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector find_rows_cpp(Rcpp::IntegerVector series,
                                  Rcpp::NumericVector number,
                                  Rcpp::NumericVector value,
                                  Rcpp::NumericVector wanted, bool back,
                                  double max_age) {
  const std::size_t n = static_cast<std::size_t>(series.size());
  Rcpp::IntegerVector out(Rcpp::no_init(series.size()));
  int* const to = out.begin();
  const auto put = [=](std::size_t i, std::ptrdiff_t row) {
    to[i] = row == no_row ? NA_INTEGER : static_cast<int>(row + 1);
  };
  const double* const own = number.begin();
  const double* const asked = wanted.begin();
  const auto find = [&](auto wanted_of) {
    if (max_age > 0)
      return find_latest(series.begin(), own, value.begin(), wanted_of, max_age,
                         n, put);
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

// Each distinct time once, by its first row, and which of them each row has.
// [[Rcpp::export(rng = false)]]
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
    look([=](R_xlen_t i) {
      return static_cast<std::uint64_t>(static_cast<std::uint32_t>(days[i]));
    });
  } else {
    const double* const times = REAL(when);
    look([=](R_xlen_t i) {
      std::uint64_t bits;
      std::memcpy(&bits, &times[i], sizeof bits);
      return bits;
    });
  }
  return Rcpp::List::create(Rcpp::_["first"] = Rcpp::wrap(first),
                            Rcpp::_["at"] = at);
}

// Runs of rows with the same values in all columns: the number of each row's
// run, and the first row of each.
// [[Rcpp::export(rng = false)]]
Rcpp::List runs_cpp(Rcpp::List columns) {
  const R_xlen_t n = Rf_xlength(columns[0]);
  std::vector<unsigned char> starts(static_cast<std::size_t>(n), 0);
  if (n > 0) starts[0] = 1;
  for (R_xlen_t j = 0; j < columns.size(); ++j) {
    const SEXP column = columns[j];
    const auto mark = [&](const auto* values) {
      for (R_xlen_t i = 1; i < n; ++i) {
        if (std::memcmp(&values[i], &values[i - 1], sizeof *values) != 0)
          starts[static_cast<std::size_t>(i)] = 1;
      }
    };
    switch (TYPEOF(column)) {
      case STRSXP:
        mark(STRING_PTR_RO(column));
        break;
      case LGLSXP:
      case INTSXP:
        mark(INTEGER(column));
        break;
      case REALSXP:
        mark(REAL(column));
        break;
      // Of other columns each row is a run of its own.
      default:
        std::fill(starts.begin(), starts.end(), 1);
    }
  }
  Rcpp::IntegerVector run(Rcpp::no_init(n));
  int* const to = run.begin();
  std::vector<int> first;
  for (R_xlen_t i = 0; i < n; ++i) {
    if (starts[static_cast<std::size_t>(i)])
      first.push_back(static_cast<int>(i + 1));
    to[i] = static_cast<int>(first.size());
  }
  return Rcpp::List::create(Rcpp::_["run"] = run,
                            Rcpp::_["first"] = Rcpp::wrap(first));
}

// Whether numbers rise from row to row within each run.
// [[Rcpp::export(rng = false)]]
bool rises_cpp(Rcpp::IntegerVector run, Rcpp::NumericVector number) {
  const int* const at = run.begin();
  const double* const x = number.begin();
  bool rises = true;
  for (R_xlen_t i = 1; i < run.size(); ++i)
    rises = rises & ((at[i] != at[i - 1]) | (x[i] > x[i - 1]));
  return rises;
}

// The values whose standing is one of the codes in `whole`, NA for the others.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector whole_values_cpp(Rcpp::NumericVector value,
                                     Rcpp::IntegerVector standing,
                                     Rcpp::IntegerVector whole) {
  Rcpp::NumericVector out(Rcpp::no_init(value.size()));
  std::array<bool, 256> keeps{};
  for (const int code : whole) keeps.at(static_cast<std::size_t>(code)) = true;
  const double* const from = value.begin();
  const int* const code = standing.begin();
  double* const to = out.begin();
  const double lacking = NA_REAL;
  in_stretches(value.size(), [&](R_xlen_t start, R_xlen_t end) {
    for (R_xlen_t i = start; i < end; ++i) {
      const bool is =
          code[i] != NA_INTEGER && keeps[static_cast<unsigned char>(code[i])];
      to[i] = is && !std::isnan(from[i]) ? from[i] : lacking;
    }
  });
  return out;
}

// The series, from 1, and the period number of each row of a table that lays
// `lengths` rows for each series, the first at number `first`.
// [[Rcpp::export(rng = false)]]
Rcpp::List rows_of_layout_cpp(Rcpp::IntegerVector lengths,
                              Rcpp::NumericVector first) {
  const R_xlen_t count = lengths.size();
  std::vector<R_xlen_t> start(static_cast<std::size_t>(count) + 1);
  for (R_xlen_t s = 0; s < count; ++s)
    start[static_cast<std::size_t>(s) + 1] =
        start[static_cast<std::size_t>(s)] + lengths[s];
  Rcpp::IntegerVector series(Rcpp::no_init(start.back()));
  Rcpp::NumericVector number(Rcpp::no_init(start.back()));
  int* const series_to = series.begin();
  double* const number_to = number.begin();
  const double* const from = first.begin();
  in_stretches(start.back(), [&](R_xlen_t begin, R_xlen_t end) {
    R_xlen_t s =
        std::upper_bound(start.begin(), start.end(), begin) - start.begin() - 1;
    for (R_xlen_t i = begin; i < end; ++s) {
      const R_xlen_t here = start[static_cast<std::size_t>(s)],
                     last =
                         std::min(end, start[static_cast<std::size_t>(s) + 1]);
      for (; i < last; ++i) {
        series_to[i] = static_cast<int>(s) + 1;
        number_to[i] = from[s] + static_cast<double>(i - here);
      }
    }
  });
  return Rcpp::List::create(Rcpp::_["series"] = series,
                            Rcpp::_["number"] = number);
}
