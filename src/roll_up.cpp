// Doors to the roll-up.
#include "roll_up.h"

#include "cadences.h"
#include "calendars.h"
#include "parts.h"
#include "quantile.h"

using namespace backfill;

namespace {

Columns columns_of(const Rcpp::List& calendar, const Rcpp::List& columns) {
  return Columns(
      cut_of(calendar),
      static_cast<std::int64_t>(Rcpp::as<double>(columns["first"])),
      static_cast<std::size_t>(Rcpp::as<double>(columns["count"])),
      static_cast<std::int64_t>(Rcpp::as<double>(columns["first_day"])),
      static_cast<std::int64_t>(Rcpp::as<double>(columns["last_day"])));
}

// A vector with what `of` makes of each cell.
template <typename Vector, typename Cell, typename Of>
Vector each_cell(const std::vector<Cell>& cells, Of of) {
  Vector out(static_cast<R_xlen_t>(cells.size()));
  auto* to = out.begin();
  for (const Cell& cell : cells) *to++ = of(cell);
  return out;
}

template <typename Cell>
Rcpp::List totals_list(const std::vector<Cell>& cells) {
  return Rcpp::List::create(
      Rcpp::_["sum"] = each_cell<Rcpp::NumericVector>(
          cells, [](const Cell& c) { return c.sum.value(); }),
      Rcpp::_["records"] = each_cell<Rcpp::IntegerVector>(
          cells, [](const Cell& c) { return c.records; }),
      Rcpp::_["slots"] = each_cell<Rcpp::IntegerVector>(
          cells, [](const Cell& c) { return c.slots; }));
}

// A statistic of cells that have records.
template <typename Of>
Rcpp::NumericVector statistic(const std::vector<Statistics>& cells, Of of) {
  return each_cell<Rcpp::NumericVector>(cells, [of](const Statistics& c) {
    const double x = c.records == 0 ? NA_REAL : of(c);
    return std::isnan(x) ? NA_REAL : x;
  });
}

Rcpp::List statistics_list(const std::vector<Statistics>& cells) {
  Rcpp::List out = totals_list(cells);
  out["first"] = statistic(cells, [](const Statistics& c) { return c.first; });
  out["last"] = statistic(cells, [](const Statistics& c) { return c.last; });
  out["lowest"] =
      statistic(cells, [](const Statistics& c) { return c.lowest; });
  out["highest"] =
      statistic(cells, [](const Statistics& c) { return c.highest; });
  out["sd"] =
      statistic(cells, [](const Statistics& c) { return c.deviation(); });
  return out;
}

}  // namespace

// `parts` as in parts.h; `calendar` is laid over the zone; `columns` has the
// number of the `first` period, their `count`, and the `first_day` and
// `last_day` of the records; `cadences` and `surveys` have one row per series.
// Of each series and period, series by series: `sum`, `records` and `slots`;
// and where `group` gives each series one of `groups` groups (from 1), the same
// of each group and period as `merged`. With `all`, the other statistics too.
// [[Rcpp::export(rng = false)]]
Rcpp::List roll_up_cpp(Rcpp::List parts, double scale, Rcpp::List calendar,
                       Rcpp::List columns, Rcpp::List cadences,
                       Rcpp::DataFrame surveys, bool all,
                       std::vector<int> group, int groups) {
  const auto slotted = slotted_of(cadences, surveys["lowest"],
                                  surveys["highest"], surveys["in_order"]);
  const auto roll = [&](auto cell, auto as_list) {
    RollUp<decltype(cell)> rolled(columns_of(calendar, columns),
                                  clock_of(Rcpp::List(calendar["table"])),
                                  slotted, records_of(surveys));
    each_part(parts, scale,
              [&](const Times& times, const int* series, const double* value) {
                rolled.add(times, series, value);
              });
    Rcpp::List out = as_list(rolled.cells());
    if (groups > 0)
      out["merged"] = as_list(merge_series(rolled.cells(), group,
                                           static_cast<std::size_t>(groups)));
    return out;
  };
  return all ? roll(Statistics(), statistics_list)
             : roll(Totals(), totals_list<Totals>);
}

// A quantile of the values of each series and period, series by series, of
// which `records` says how many there are; `group` gives each series the one
// that it counts as, or is empty.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector quantile_cpp(Rcpp::List parts, double scale,
                                 Rcpp::List calendar, Rcpp::List columns,
                                 std::vector<int> group,
                                 Rcpp::IntegerVector records, double share) {
  Columns column = columns_of(calendar, columns);
  // The values put together by cell: `at` is where the next value of a cell
  // goes.
  std::vector<std::size_t> at(static_cast<std::size_t>(records.size()) + 1);
  for (std::size_t c = 0; c + 1 < at.size(); ++c) {
    at[c + 1] =
        at[c] + static_cast<std::size_t>(records[static_cast<R_xlen_t>(c)]);
  }
  std::vector<double> sorted(at.back());
  each_part(
      parts, scale,
      [&](const Times& times, const int* series, const double* value) {
        with_moments(
            times, clock_of(Rcpp::List(calendar["table"])), [&](auto moments) {
              for (std::size_t i = 0; i < times.n; ++i) {
                if (std::isnan(value[i])) continue;
                const std::size_t s = static_cast<std::size_t>(series[i] - 1);
                const std::size_t row =
                    group.empty() ? s : static_cast<std::size_t>(group[s] - 1);
                sorted[at[row * column.count() + column.of(moments[i])]++] =
                    value[i];
              }
            });
      });
  Rcpp::NumericVector out(records.size());
  double* from = sorted.data();
  for (R_xlen_t c = 0; c < records.size(); ++c) {
    const double found = quantile(from, from + records[c], share);
    out[c] = std::isnan(found) ? NA_REAL : found;
    from += records[c];
  }
  return out;
}

// How whole each cell is by itself: the code of its standing (1 complete, 2
// partial, 3 empty) and its coverage, NA where that is not known. `expected`
// has the slots of each cell, or of one series' cells where those of all are
// alike; `reached` says of the same whether the records reach over all of their
// period; `zero` that silence means zero.
// [[Rcpp::export(rng = false)]]
Rcpp::List judge_cells_cpp(Rcpp::IntegerVector slots,
                           Rcpp::IntegerVector records,
                           Rcpp::NumericVector expected,
                           Rcpp::LogicalVector reached, double enough,
                           bool zero) {
  const R_xlen_t n = slots.size(), reaches = reached.size(),
                 lengths = expected.size();
  Rcpp::IntegerVector standing(Rcpp::no_init(n));
  Rcpp::NumericVector coverage(Rcpp::no_init(n));
  int* const to = standing.begin();
  double* const share = coverage.begin();
  const int* const filled = slots.begin();
  const int* const count = records.begin();
  const int* const whole_reach = reached.begin();
  const double* const most = expected.begin();
  for (R_xlen_t i = 0, reach = 0, at = 0; i < n; ++i) {
    // Where nothing was expected there is no share of it.
    const double covered = most[at] > 0 ? filled[i] / most[at] : NA_REAL;
    const bool known = !std::isnan(covered),
               by_reach = whole_reach[reach] == TRUE;
    share[i] = known ? covered : NA_REAL;
    const bool whole = zero || !known ? by_reach : covered >= enough;
    to[i] = !zero && count[i] == 0 ? 3 : whole ? 1 : 2;
    if (++reach == reaches) reach = 0;
    if (++at == lengths) at = 0;
  }
  return Rcpp::List::create(Rcpp::_["standing"] = standing,
                            Rcpp::_["coverage"] = coverage);
}
