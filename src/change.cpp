// Doors to changes along a series: growth, running totals, returns. Rows come
// sorted by series, then by period number, without two alike.
#include "change.h"

#include <algorithm>
#include <array>

#include "returns.h"
#include "running.h"
#include "series.h"

using namespace backfill;

// The change of each row from its base row, or with `ahead` of the base row
// from the row itself. `form` is a code of enum class Form, `counts` says how
// many rows have each code of enum class Given.
// [[Rcpp::export(rng = false)]]
Rcpp::List change_cpp(Rcpp::NumericVector value, Rcpp::IntegerVector base,
                      bool ahead, int form) {
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
  return Rcpp::List::create(
      Rcpp::_["value"] = out,
      Rcpp::_["counts"] = std::vector<double>(counts.begin(), counts.end()));
}

// Running totals; `start` is the number of the first period of the stretch that
// each row lies in, or one NA for totals that never start anew. `counts` says
// how many rows have each code of enum class RunningTotal::State.
// [[Rcpp::export(rng = false)]]
Rcpp::List running_total_cpp(Rcpp::IntegerVector series,
                             Rcpp::NumericVector number,
                             Rcpp::NumericVector value,
                             Rcpp::NumericVector start) {
  Rcpp::NumericVector out(series.size(), NA_REAL), counts(3);
  each_series(series, [&](std::size_t first, std::size_t end) {
    RunningTotal total;
    for (R_xlen_t i = static_cast<R_xlen_t>(first);
         i < static_cast<R_xlen_t>(end); ++i) {
      const RunningTotal::State state =
          total.add(number[i], value[i], start[start.size() == 1 ? 0 : i]);
      ++counts[static_cast<int>(state)];
      if (state == RunningTotal::State::given) out[i] = total.total();
    }
  });
  return Rcpp::List::create(Rcpp::_["value"] = out, Rcpp::_["counts"] = counts);
}

// `what` is a code of enum class Return; `opened` counts the open periods up to
// each row, `max_age` is one for each row.
// [[Rcpp::export(rng = false)]]
Rcpp::List returns_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number,
                       Rcpp::NumericVector value, Rcpp::NumericVector opened,
                       Rcpp::NumericVector max_age, int what) {
  Rcpp::NumericVector out(series.size());
  ReturnCounts counts;
  each_series(series, [&](std::size_t start, std::size_t end) {
    returns(number.begin() + start, value.begin() + start,
            opened.begin() + start, end - start, static_cast<Return>(what),
            max_age[static_cast<R_xlen_t>(start)], out.begin() + start, counts);
  });
  std::transform(out.begin(), out.end(), out.begin(), as_r);
  const auto count = [](std::size_t n) { return static_cast<double>(n); };
  return Rcpp::List::create(
      Rcpp::_["value"] = out,
      Rcpp::_["counts"] = Rcpp::NumericVector::create(
          Rcpp::_["first"] = count(counts.first),
          Rcpp::_["not_whole"] = count(counts.not_whole),
          Rcpp::_["not_positive"] = count(counts.not_positive),
          Rcpp::_["longer"] = count(counts.longer),
          Rcpp::_["too_old"] = count(counts.too_old)));
}

// The highest (0), lowest (1) or mean (2) so far; `start` as for running
// totals. Rows without a value have none and are passed over.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector running_statistic_cpp(Rcpp::IntegerVector series,
                                          Rcpp::NumericVector value,
                                          Rcpp::NumericVector start, int stat) {
  Rcpp::NumericVector out(series.size(), NA_REAL);
  each_series(series, [&](std::size_t first, std::size_t end) {
    RunningStatistic so_far(static_cast<RunningStatistic::What>(stat));
    const bool never = start.size() == 1;
    for (R_xlen_t i = static_cast<R_xlen_t>(first);
         i < static_cast<R_xlen_t>(end); ++i) {
      if (!never && i > static_cast<R_xlen_t>(first) &&
          start[i] != start[i - 1])
        so_far.start_anew();
      if (std::isnan(value[i])) continue;
      so_far.add(value[i]);
      out[i] = so_far.value();
    }
  });
  return out;
}
