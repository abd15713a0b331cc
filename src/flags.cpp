// Door to flags. Rows come sorted by series, then by period number, without two
// alike.
#include "flags.h"

#include <vector>

#include "grid.h"
#include "interrupts.h"
#include "series.h"
#include "side_by_side.h"
#include "turning.h"
#include "usual.h"

using namespace backfill;

namespace {

double number_of(const Rcpp::List& rule, const char* name) {
  return Rcpp::as<double>(rule[name]);
}
bool flag_of(const Rcpp::List& rule, const char* name) {
  return Rcpp::as<bool>(rule[name]);
}

FlagRule rule_of(const Rcpp::List& rule) {
  const auto count = [&](const char* name) {
    return static_cast<std::size_t>(number_of(rule, name));
  };
  return {static_cast<Against>(static_cast<int>(number_of(rule, "against"))),
          static_cast<Middle>(static_cast<int>(number_of(rule, "middle"))),
          count("last"),
          count("need"),
          number_of(rule, "alpha"),
          number_of(rule, "percent"),
          number_of(rule, "amount"),
          number_of(rule, "sd"),
          number_of(rule, "mad"),
          number_of(rule, "quantile"),
          number_of(rule, "floor"),
          count("enough"),
          flag_of(rule, "up"),
          flag_of(rule, "down"),
          flag_of(rule, "all"),
          flag_of(rule, "exclude_flagged"),
          SeasonRule{count("cycle"), flag_of(rule, "ratio"), false,
                     Combine::mean, true},
          count("spread_of")};
}

}  // namespace

// Judges every row. Of the numbers from `first` on, `base` is that of the
// period one cycle earlier and `position` that in the cycle (from 0); `given`
// is a baseline from elsewhere by row. Each may be empty where `rule` has no
// need of it.
// [[Rcpp::export(rng = false)]]
Rcpp::List flags_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number,
                     Rcpp::NumericVector value, Rcpp::NumericVector base,
                     Rcpp::NumericVector given, Rcpp::IntegerVector position,
                     double first, Rcpp::List rule, Rcpp::NumericVector widened,
                     Rcpp::NumericVector widened_robust) {
  const R_xlen_t rows = series.size();
  const std::vector<Ends> ends = ends_of_series(series);
  const FlagRule asked = rule_of(rule);
  const std::vector<double> wide(widened.begin(), widened.end()),
      wide_robust(widened_robust.begin(), widened_robust.end());
  Rcpp::NumericVector baseline(rows), lower(rows), upper(rows), score(rows);
  Rcpp::IntegerVector prior(rows);
  Rcpp::LogicalVector flag(rows);
  double *const baseline_to = baseline.begin(), *const lower_to = lower.begin(),
                *const upper_to = upper.begin(),
                *const score_to = score.begin();
  int *const prior_to = prior.begin(), *const flag_to = flag.begin();
  const double *const numbers = number.begin(), *const values = value.begin(),
                      *const base_at = base.size() > 0 ? base.begin() : nullptr,
                      *const given_at =
                          given.size() > 0 ? given.begin() : nullptr;
  const int* const position_at =
      position.size() > 0 ? position.begin() : nullptr;
  Interrupts interrupts;
  const auto judge_one = [&](Flagger& flagger, std::size_t s) {
    const std::size_t start = ends[s].start, count = ends[s].end - start;
    const Grid grid(numbers + start, values + start, count);
    const std::size_t n = grid.size();
    std::vector<int> back;
    std::vector<double> baseline_given;
    if (base_at != nullptr) {
      back.assign(n, -1);
      const double* const of_grid =
          base_at + static_cast<std::ptrdiff_t>(numbers[start] - first);
      for (std::size_t i = 0; i < n; ++i) {
        const double at = of_grid[i] - numbers[start];
        if (at >= 0 && at < static_cast<double>(n))
          back[i] = static_cast<int>(at);
      }
    }
    if (given_at != nullptr) {
      baseline_given.assign(n, NA_REAL);
      for (std::size_t i = 0; i < count; ++i)
        baseline_given[grid.place(i)] = given_at[start + i];
    }
    std::vector<Judged> judged(n);
    const int* const of_grid =
        position_at == nullptr
            ? nullptr
            : position_at + static_cast<std::ptrdiff_t>(numbers[start] - first);
    if (!flagger.judge(grid.x(), n, back.data(), baseline_given.data(), of_grid,
                       judged.data(), interrupts))
      return;
    for (std::size_t i = 0; i < count; ++i) {
      const Judged& one = judged[grid.place(i)];
      baseline_to[start + i] = as_r(one.baseline);
      lower_to[start + i] = as_r(one.lower);
      upper_to[start + i] = as_r(one.upper);
      score_to[start + i] = as_r(one.score);
      prior_to[start + i] = static_cast<int>(one.prior);
      flag_to[start + i] =
          std::isnan(one.upper) || std::isnan(values[start + i]) ? NA_LOGICAL
          : one.flagged                                          ? 1
                                                                 : 0;
    }
  };
  constexpr std::size_t at_a_time = 64;
  side_by_side(rows < 100000 ? 1 : (ends.size() + at_a_time - 1) / at_a_time,
               [&](std::size_t piece) {
                 Flagger flagger(asked, wide, wide_robust);
                 const std::size_t from = piece * at_a_time;
                 const std::size_t to =
                     rows < 100000 ? ends.size()
                                   : std::min(ends.size(), from + at_a_time);
                 for (std::size_t s = from; s < to; ++s) judge_one(flagger, s);
               });
  interrupts.obey();
  return Rcpp::List::create(Rcpp::_["baseline"] = baseline,
                            Rcpp::_["lower"] = lower, Rcpp::_["upper"] = upper,
                            Rcpp::_["score"] = score, Rcpp::_["prior"] = prior,
                            Rcpp::_["flag"] = flag);
}

// On which side of what was usual before each deviation lies: -1, 0 or 1. Those
// that are not `kept` do not become usual.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector sides_cpp(Rcpp::IntegerVector series,
                              Rcpp::NumericVector number,
                              Rcpp::NumericVector deviation,
                              Rcpp::NumericVector share,
                              Rcpp::LogicalVector kept) {
  Rcpp::IntegerVector side(series.size());
  each_series(series, [&](std::size_t start, std::size_t end) {
    Usual usual;
    for (std::size_t i = start; i < end; ++i) {
      if (std::isnan(deviation[i])) continue;
      side[i] = usual.side_of(deviation[i], share[i]);
      if (kept[i]) usual.add(number[i], deviation[i], share[i]);
    }
  });
  return side;
}

// The rows (from 1) that are lows and highs, and which are high.
// [[Rcpp::export(rng = false)]]
Rcpp::List turning_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number,
                       Rcpp::NumericVector value, int span, bool around) {
  std::vector<int> row;
  std::vector<bool> high;
  each_series(series, [&](std::size_t start, std::size_t end) {
    const Grid grid(number.begin() + start, value.begin() + start, end - start);
    std::size_t i = 0;
    for (const Turn& turn : turning_places(
             grid.x(), grid.size(), static_cast<std::size_t>(span), around)) {
      while (grid.place(i) < turn.place) ++i;
      row.push_back(static_cast<int>(start + i) + 1);
      high.push_back(turn.high);
    }
  });
  return Rcpp::List::create(Rcpp::_["row"] = row, Rcpp::_["high"] = high);
}
