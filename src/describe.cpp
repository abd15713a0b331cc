// Doors to what describes series. Rows come sorted by series, then by period
// number, without two alike.
#include "describe.h"

#include <Rcpp/Lightest>

#include <algorithm>
#include <functional>
#include <vector>

#include "beside_season.h"
#include "grid.h"
#include "group_differences.h"
#include "interrupts.h"
#include "series.h"
#include "shifts.h"
#include "spells.h"

using namespace backfill;

// Of each series: its figures' count, mean, sums of powers and lag-1
// autocorrelation, the rows of the lowest and the highest, the quantiles at
// `shares` (of which the first two are the quartiles); and the rows beyond the
// fences.
// [[Rcpp::export(rng = false)]]
Rcpp::List describe_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number,
                        Rcpp::NumericVector value, Rcpp::NumericVector shares) {
  const std::vector<Ends> ends = ends_of_series(series);
  const R_xlen_t lines = static_cast<R_xlen_t>(ends.size());
  Rcpp::NumericVector count(lines), mean(lines), squares(lines), cubes(lines),
      fourths(lines), beside(lines);
  Rcpp::IntegerVector lowest(lines, NA_INTEGER), highest(lines, NA_INTEGER);
  Rcpp::NumericMatrix quantiles(static_cast<int>(shares.size()),
                                static_cast<int>(lines));
  std::vector<int> apart;
  std::vector<double> known;
  for (R_xlen_t s = 0; s < lines; ++s) {
    const std::size_t start = ends[static_cast<std::size_t>(s)].start,
                      end = ends[static_cast<std::size_t>(s)].end;
    const double* const x = value.begin() + start;
    const Described found = described(x, number.begin() + start, end - start);
    count[s] = static_cast<double>(found.count);
    mean[s] = as_r(found.mean);
    squares[s] = as_r(found.squares);
    cubes[s] = as_r(found.cubes);
    fourths[s] = as_r(found.fourths);
    beside[s] = as_r(found.autocorrelation);
    known.clear();
    for (std::size_t i = start; i < end; ++i)
      if (!std::isnan(value[static_cast<R_xlen_t>(i)]))
        known.push_back(value[static_cast<R_xlen_t>(i)]);
    for (R_xlen_t k = 0; k < shares.size(); ++k)
      quantiles(static_cast<int>(k), static_cast<int>(s)) =
          as_r(quantile(known.data(), known.data() + known.size(), shares[k]));
    if (found.count == 0) continue;
    lowest[s] = static_cast<int>(start + found.lowest) + 1;
    highest[s] = static_cast<int>(start + found.highest) + 1;
    const Fences fences(quantiles(0, static_cast<int>(s)),
                        quantiles(1, static_cast<int>(s)));
    for (std::size_t i = 0; i < end - start; ++i)
      if (fences.beyond(x[i])) apart.push_back(static_cast<int>(start + i) + 1);
  }
  return Rcpp::List::create(
      Rcpp::_["count"] = count, Rcpp::_["mean"] = mean,
      Rcpp::_["squares"] = squares, Rcpp::_["cubes"] = cubes,
      Rcpp::_["fourths"] = fourths, Rcpp::_["autocorrelation"] = beside,
      Rcpp::_["lowest"] = lowest, Rcpp::_["highest"] = highest,
      Rcpp::_["quantiles"] = quantiles, Rcpp::_["apart"] = apart);
}

// What is found of the groups of each series, see group_differences.h: by group
// and series `count` to `p`, by series the others. `code` counts groups from 1;
// all series are cut into the same blocks, unless these are lengthened.
// The rows of a series with a season have a `position` (from 0), those of
// others NA; `apart` is whether season and groups can be told apart.
// [[Rcpp::export(rng = false)]]
Rcpp::List group_differences_cpp(Rcpp::IntegerVector series,
                                 Rcpp::NumericVector number,
                                 Rcpp::NumericVector value,
                                 Rcpp::IntegerVector code, int groups,
                                 double base, double turn, bool lengthen,
                                 bool median, double tail, int draws, int seed,
                                 Rcpp::IntegerVector position, int cycle) {
  const std::vector<Ends> ends = ends_of_series(series);
  const int lines = static_cast<int>(ends.size());
  const auto matrix = [&] { return Rcpp::NumericMatrix(groups, lines); };
  Rcpp::NumericMatrix count = matrix(), mean = matrix(), middle = matrix(),
                      difference = matrix(), lower = matrix(), upper = matrix(),
                      p = matrix();
  Rcpp::NumericVector n(lines), there(lines), explained(lines), p_of_all(lines),
      block(lines), blocks(lines);
  const GroupRule rule{static_cast<std::size_t>(groups),
                       static_cast<std::size_t>(base),
                       static_cast<std::size_t>(turn),
                       lengthen,
                       median,
                       tail,
                       static_cast<std::size_t>(draws),
                       static_cast<std::uint64_t>(seed)};
  Rcpp::LogicalVector apart(lines, true);
  Interrupts interrupts;
  std::vector<double> values;
  std::vector<int> codes, positions;
  for (int s = 0; s < lines; ++s) {
    const R_xlen_t start = static_cast<R_xlen_t>(ends[s].start),
                   end = static_cast<R_xlen_t>(ends[s].end);
    const std::size_t places =
        static_cast<std::size_t>(number[end - 1] - number[start]) + 1;
    values.assign(places, GroupsFound::none());
    codes.assign(places, -1);
    positions.assign(places, 0);
    for (R_xlen_t i = start; i < end; ++i) {
      const std::size_t at =
          static_cast<std::size_t>(number[i] - number[start]);
      values[at] = value[i];
      codes[at] = code[i] == NA_INTEGER ? -1 : code[i] - 1;
      if (cycle > 0) positions[at] = position[i];
    }
    GroupsFound found(rule.groups);
    if (cycle > 0 && position[start] != NA_INTEGER) {
      const GroupsFound own =
          GroupFinder(values, codes, rule, std::ref(interrupts)).find(false);
      const std::vector<bool> told =
          take_season_out(&values, codes, positions,
                          static_cast<std::size_t>(cycle), rule.groups);
      apart[s] = own.groups < 2 ||
                 std::find(told.begin(), told.end(), true) != told.end();
      found =
          GroupFinder(values, codes, rule, std::ref(interrupts)).find(apart[s]);
      for (std::size_t g = 0; g < rule.groups; ++g)
        if (!told[g])
          found.difference[g] = found.lower[g] = found.upper[g] = found.p[g] =
              GroupsFound::none();
      // What the groups are, and how they differ beside the season.
      found.mean = own.mean, found.median = own.median;
    } else {
      found = GroupFinder(values, codes, rule, std::ref(interrupts)).find(true);
    }
    interrupts.obey();
    for (int g = 0; g < groups; ++g) {
      const std::size_t at = static_cast<std::size_t>(g);
      count(g, s) = found.count[at];
      mean(g, s) = as_r(found.mean[at]);
      middle(g, s) = as_r(found.median[at]);
      difference(g, s) = as_r(found.difference[at]);
      lower(g, s) = as_r(found.lower[at]);
      upper(g, s) = as_r(found.upper[at]);
      p(g, s) = as_r(found.p[at]);
    }
    n[s] = found.n;
    there[s] = found.groups;
    explained[s] = as_r(found.explained);
    p_of_all[s] = as_r(found.p_of_all);
    block[s] = found.block;
    blocks[s] = found.blocks;
  }
  return Rcpp::List::create(
      Rcpp::_["count"] = count, Rcpp::_["mean"] = mean,
      Rcpp::_["median"] = middle, Rcpp::_["difference"] = difference,
      Rcpp::_["lower"] = lower, Rcpp::_["upper"] = upper, Rcpp::_["p"] = p,
      Rcpp::_["apart"] = apart, Rcpp::_["n"] = n, Rcpp::_["groups"] = there,
      Rcpp::_["explained"] = explained, Rcpp::_["p_of_all"] = p_of_all,
      Rcpp::_["block"] = block, Rcpp::_["blocks"] = blocks);
}

// The shifts of each series, whose rows all have values. With `by_itself` the
// season is allowed for only where a series has three cycles of it. By shift
// `row` (from 1) to `p`, by series the others, by row `line` and `fitted`.
// [[Rcpp::export(rng = false)]]
Rcpp::List level_shifts_cpp(Rcpp::IntegerVector series,
                            Rcpp::NumericVector number,
                            Rcpp::NumericVector value,
                            Rcpp::IntegerVector position, int cycle,
                            bool by_itself, int least, int most, bool line,
                            double chance, int seed) {
  const std::vector<Ends> ends = ends_of_series(series);
  const R_xlen_t lines = static_cast<R_xlen_t>(ends.size());
  Interrupts interrupts;
  std::vector<int> row;
  std::vector<double> before, size, error, reach, taken, p;
  Rcpp::NumericVector n(lines), explained(lines), memory(lines), p_of(lines),
      line_p(lines);
  Rcpp::LogicalVector constant(lines), seasonal(lines);
  Rcpp::IntegerVector of_row(series.size());
  Rcpp::NumericVector fitted(series.size());
  for (R_xlen_t s = 0; s < lines; ++s) {
    const Ends at = ends[static_cast<std::size_t>(s)];
    const std::size_t count = at.end - at.start;
    const std::ptrdiff_t from = static_cast<std::ptrdiff_t>(at.start),
                         to = static_cast<std::ptrdiff_t>(at.end);
    const Column y(value.begin() + from, value.begin() + to);
    Column place(number.begin() + from, number.begin() + to);
    const double first = place[0];
    for (double& one : place) one -= first;
    const double wanted = by_itself ? 3.0 * cycle : cycle + 1.0;
    const bool in_season =
        position.size() > 0 && static_cast<double>(count) >= wanted;
    const std::vector<int> positions =
        in_season
            ? std::vector<int>(position.begin() + from, position.begin() + to)
            : std::vector<int>(count);
    const std::size_t apart = least == NA_INTEGER
                                  ? std::max<std::size_t>(6, (count + 7) / 8)
                                  : static_cast<std::size_t>(least);
    const ShiftRule rule{static_cast<std::size_t>(most),
                         apart,
                         in_season ? static_cast<std::size_t>(cycle) : 1,
                         line,
                         chance,
                         499,
                         static_cast<std::uint64_t>(seed)};
    ShiftFinder finder(y, place, positions, rule, std::ref(interrupts));
    const ShiftsFound found = finder.find();
    interrupts.obey();
    for (const Shift& one : found.shifts) {
      row.push_back(static_cast<int>(at.start + one.row) + 1);
      before.push_back(one.before), size.push_back(one.size);
      error.push_back(one.error), reach.push_back(one.reach);
      taken.push_back(one.taken), p.push_back(one.p);
    }
    n[s] = static_cast<double>(count);
    explained[s] = found.explained, memory[s] = found.memory;
    p_of[s] = found.shifts.empty() ? as_r(found.p) : found.shifts_p();
    line_p[s] = found.line_p;
    seasonal[s] = in_season;
    const auto range = std::minmax_element(y.begin(), y.end());
    constant[s] = *range.first == *range.second;
    for (std::size_t i = 0; i < count; ++i) {
      of_row[from + static_cast<std::ptrdiff_t>(i)] = static_cast<int>(s) + 1;
      fitted[from + static_cast<std::ptrdiff_t>(i)] =
          found.level.empty() ? NA_REAL : found.level[i];
    }
  }
  return Rcpp::List::create(
      Rcpp::_["row"] = row, Rcpp::_["before"] = before, Rcpp::_["size"] = size,
      Rcpp::_["error"] = error, Rcpp::_["reach"] = reach,
      Rcpp::_["taken"] = taken, Rcpp::_["p"] = p, Rcpp::_["n"] = n,
      Rcpp::_["explained"] = explained, Rcpp::_["memory"] = memory,
      Rcpp::_["p_of_series"] = p_of, Rcpp::_["line_p"] = line_p,
      Rcpp::_["constant"] = constant, Rcpp::_["seasonal"] = seasonal,
      Rcpp::_["line"] = of_row, Rcpp::_["fitted"] = fitted);
}

// The seasons of each series, see spells.h; `position` from 0 and `year` are
// those of the numbers from `first` on. By season of the average year `of`
// (the series) to `rise`, by dated season `line` to `dated_rise`, whose places
// are numbers of periods; by series `mean` and `p`.
// [[Rcpp::export(rng = false)]]
Rcpp::List season_spells_cpp(Rcpp::IntegerVector series,
                             Rcpp::NumericVector number,
                             Rcpp::NumericVector value,
                             Rcpp::IntegerVector position,
                             Rcpp::IntegerVector year, double first,
                             int positions, int seasons, int reach,
                             double present, int draws, int seed) {
  const std::vector<Ends> ends = ends_of_series(series);
  const SpellRule rule{
      static_cast<std::size_t>(positions), static_cast<std::size_t>(seasons),
      static_cast<std::size_t>(reach),     present,
      static_cast<std::size_t>(draws),     static_cast<std::uint64_t>(seed)};
  Interrupts interrupts;
  std::vector<int> of, onset, end, line, season;
  std::vector<double> rise, at, dated_onset, dated_end, dated_rise, share;
  Rcpp::NumericVector mean(static_cast<R_xlen_t>(ends.size())),
      p(static_cast<R_xlen_t>(ends.size()));
  for (std::size_t s = 0; s < ends.size(); ++s) {
    const Grid grid(number.begin() + ends[s].start,
                    value.begin() + ends[s].start, ends[s].end - ends[s].start);
    const double from = number[static_cast<R_xlen_t>(ends[s].start)];
    const std::ptrdiff_t shift = static_cast<std::ptrdiff_t>(from - first),
                         size = static_cast<std::ptrdiff_t>(grid.size());
    const std::vector<double> values(grid.x(), grid.x() + size);
    const std::vector<int> places(position.begin() + shift,
                                  position.begin() + shift + size),
        years(year.begin() + shift, year.begin() + shift + size);
    SpellFinder finder(values, places, years, rule, std::ref(interrupts));
    const SpellsFound found = finder.find();
    interrupts.obey();
    mean[static_cast<R_xlen_t>(s)] = as_r(found.mean);
    p[static_cast<R_xlen_t>(s)] = as_r(found.p);
    for (const AverageSpell& one : found.average) {
      of.push_back(static_cast<int>(s) + 1);
      onset.push_back(static_cast<int>(one.onset) + 1);
      end.push_back(static_cast<int>(one.end) + 1);
      rise.push_back(one.rise);
    }
    for (const DatedSpell& one : found.dated) {
      line.push_back(static_cast<int>(s) + 1);
      season.push_back(static_cast<int>(one.season) + 1);
      at.push_back(from + static_cast<double>(one.at));
      share.push_back(as_r(one.share));
      const auto place = [&](std::size_t i) {
        return one.dated ? from + static_cast<double>(i) : NA_REAL;
      };
      dated_onset.push_back(place(one.onset));
      dated_end.push_back(place(one.end));
      dated_rise.push_back(one.dated ? one.rise : NA_REAL);
    }
  }
  return Rcpp::List::create(
      Rcpp::_["of"] = of, Rcpp::_["onset"] = onset, Rcpp::_["end"] = end,
      Rcpp::_["rise"] = rise, Rcpp::_["line"] = line,
      Rcpp::_["season"] = season, Rcpp::_["at"] = at,
      Rcpp::_["dated_onset"] = dated_onset, Rcpp::_["dated_end"] = dated_end,
      Rcpp::_["dated_rise"] = dated_rise, Rcpp::_["share"] = share,
      Rcpp::_["mean"] = mean, Rcpp::_["p"] = p);
}
