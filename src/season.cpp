// Doors to seasonal indices. Rows come sorted by series, then by period number,
// without two alike.
#include "season.h"

#include <vector>

#include "grid.h"
#include "season_tests.h"
#include "series.h"
#include "side_by_side.h"

using namespace backfill;

namespace {

// What is known of each series beside its index, a column each.
constexpr int facts_count = 20;
enum Fact {
  fault,
  span,
  bridged,
  parts,
  f,
  f_free,
  f_within,
  h,
  h_free,
  drift_f,
  drift_free,
  drift_within,
  drift_ranks,
  memory,
  share,
  sd_before,
  sd_after,
  range_before,
  range_after,
  kept
};

void put_tests(const Season& season, double* fact) {
  const SeasonTests tests(season);
  const double known[] = {static_cast<double>(season.sorted.size()),
                          tests.variance.statistic,
                          tests.variance.free,
                          tests.variance.free_within,
                          tests.ranks.statistic,
                          tests.ranks.free,
                          tests.drift.statistic,
                          tests.drift.free,
                          tests.drift.free_within,
                          tests.drift_ranks.statistic,
                          tests.memory,
                          tests.share};
  std::transform(std::begin(known), std::end(known), fact + parts, as_r);
}

}  // namespace

// The index of each series, whose rows' positions in the cycle (from 0) are
// those of the numbers from `first` on. Returned are by row the reference, the
// part (ratio or difference), the figure without the season, its index and the
// normaliser of that; by position and
// series the index, the count, spread, lowest and highest of the parts; by
// series the facts in the order of enum Fact; and the rows whose parts stand
// apart.
// [[Rcpp::export(rng = false)]]
Rcpp::List season_cpp(Rcpp::IntegerVector series, Rcpp::NumericVector number,
                      Rcpp::NumericVector value, Rcpp::IntegerVector position,
                      double first, int cycle, bool ratio, bool overall,
                      int combine, bool normalise) {
  const R_xlen_t rows = series.size();
  const std::vector<Ends> ends = ends_of_series(series);
  const int count = static_cast<int>(ends.size());
  const std::size_t positions = static_cast<std::size_t>(cycle);
  Rcpp::NumericVector reference(rows), part(rows), adjusted(rows), of_row(rows),
      scale(rows);
  Rcpp::NumericMatrix index(cycle, count), spread(cycle, count),
      lowest(cycle, count), highest(cycle, count);
  Rcpp::IntegerMatrix counts(cycle, count);
  Rcpp::NumericMatrix facts(facts_count, count);
  std::vector<unsigned char> odd(static_cast<std::size_t>(rows));
  const SeasonRule rule{positions, ratio, overall,
                        static_cast<Combine>(combine), normalise};
  // Plain places, as other processors must not use R.
  const double *const numbers = number.begin(), *const values = value.begin();
  double *const
      reference_to = reference.begin(),
      *const part_to = part.begin(), *const adjusted_to = adjusted.begin(),
      *const row_to = of_row.begin(), *const scale_to = scale.begin(),
      *const index_to = index.begin(), *const spread_to = spread.begin(),
      *const lowest_to = lowest.begin(), *const highest_to = highest.begin(),
      *const facts_to = facts.begin();
  int* const counts_to = counts.begin();
  const int* const position_at = position.begin();

  const auto find_one = [&](Season& season, std::size_t s) {
    const std::size_t start = ends[s].start;
    const Grid grid(numbers + start, values + start, ends[s].end - start);
    const int* const at =
        position_at + static_cast<std::ptrdiff_t>(numbers[start] - first);
    double* const fact = facts_to + s * facts_count;
    std::fill(fact, fact + facts_count, NA_REAL);
    const SeasonFault found = season.find_staying(grid.x(), at, grid.size());
    fact[fault] = static_cast<double>(found);
    fact[span] = static_cast<double>(season.span());
    fact[bridged] = static_cast<double>(season.bridged);
    const bool is = found == SeasonFault::none;
    // Of one that moves the tests are those of one that stays: what a line
    // leaves has other degrees of freedom.
    if (is) put_tests(season, fact);
    if (is && season.moves()) {
      season.follow(grid.x(), at);
      fact[kept] = season.kept;
      fact[share] = as_r(season.explained());
    }
    PartSpread before, after;
    PartExtreme<false> low_before, low_after;
    PartExtreme<true> high_before, high_after;
    for (std::size_t i = start; i < ends[s].end; ++i) {
      const std::size_t place = grid.place(i - start);
      const double own = is ? season.at(place, at) : NA_REAL;
      reference_to[i] = is ? as_r(season.reference[place]) : NA_REAL;
      part_to[i] = is ? as_r(season.part[place]) : NA_REAL;
      row_to[i] = own;
      scale_to[i] = is ? season.scale_at(place) : NA_REAL;
      adjusted_to[i] = as_r(ratio ? values[i] / own : values[i] - own);
      before.add(values[i]), low_before.add(values[i]),
          high_before.add(values[i]);
      after.add(adjusted_to[i]), low_after.add(adjusted_to[i]),
          high_after.add(adjusted_to[i]);
    }
    const auto fill = [&](std::size_t p, double one, double two, double three,
                          double four, int five) {
      const std::size_t to = s * positions + p;
      index_to[to] = one, spread_to[to] = two, lowest_to[to] = three,
      highest_to[to] = four, counts_to[to] = five;
    };
    if (!is) {
      for (std::size_t p = 0; p < positions; ++p)
        fill(p, NA_REAL, NA_REAL, NA_REAL, NA_REAL, 0);
      return;
    }
    for (std::size_t p = 0; p < positions; ++p) {
      const double *const from = season.sorted.data() + season.first[p],
                          *const to = from + season.count(p);
      PartSpread about;
      for (const double* x = from; x < to; ++x) about.add(*x);
      fill(p, season.index[p], as_r(about.deviation()), *from, *(to - 1),
           static_cast<int>(season.count(p)));
    }
    fact[sd_before] = before.deviation();
    fact[sd_after] = after.deviation();
    fact[range_before] = high_before.best - low_before.best;
    fact[range_after] = high_after.best - low_after.best;
    const auto mark = [&](std::size_t place) {
      // The row of a place lies no further on than it.
      std::size_t row = std::min(place, ends[s].end - start - 1);
      while (grid.place(row) > place) --row;
      odd[start + row] = 1;
    };
    if (!season.moves())
      each_odd_part(season, [&](std::size_t place, double) { mark(place); });
    std::for_each(season.left_out.begin(), season.left_out.end(), mark);
  };
  constexpr std::size_t at_a_time = 64;
  side_by_side(rows < 100000 ? 1 : (ends.size() + at_a_time - 1) / at_a_time,
               [&](std::size_t piece) {
                 Season season(rule);
                 const std::size_t from = piece * at_a_time;
                 const std::size_t to =
                     rows < 100000 ? ends.size()
                                   : std::min(ends.size(), from + at_a_time);
                 for (std::size_t s = from; s < to; ++s) find_one(season, s);
               });
  std::vector<int> apart;
  for (std::size_t i = 0; i < odd.size(); ++i) {
    if (odd[i] != 0) apart.push_back(static_cast<int>(i) + 1);
  }
  return Rcpp::List::create(
      Rcpp::_["reference"] = reference, Rcpp::_["part"] = part,
      Rcpp::_["adjusted"] = adjusted, Rcpp::_["of_row"] = of_row,
      Rcpp::_["scale"] = scale, Rcpp::_["index"] = index,
      Rcpp::_["count"] = counts, Rcpp::_["spread"] = spread,
      Rcpp::_["lowest"] = lowest, Rcpp::_["highest"] = highest,
      Rcpp::_["facts"] = facts, Rcpp::_["odd"] = apart);
}
