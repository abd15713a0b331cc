// Tests of the kernels in C++ alone: against what is so by hand, against slow
// ways to the same figure, and for what must not matter.
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>
#include <numeric>
#include <random>
#include <vector>

#include "as_of.h"
#include "pairs.h"
#include "accumulate.h"
#include "civil.h"
#include "earlier.h"
#include "fuzz.h"
#include "grid.h"
#include "lag_products.h"
#include "quantile.h"
#include "side_by_side.h"
#include "turning.h"
#include "usual.h"
#include "window.h"

using namespace backfill;

namespace {

const double nan_value = std::numeric_limits<double>::quiet_NaN();
std::mt19937 random_bits(1);

std::vector<double> noise(std::size_t n) {
  std::normal_distribution<double> normal(0, 1);
  std::vector<double> out(n);
  for (double& x : out) x = normal(random_bits);
  return out;
}

bool near(double a, double b, double within = 1e-12) {
  return std::abs(a - b) <= within * (1 + std::abs(b));
}

void days_of_the_calendar() {
  must(days_from_civil(1970, 1, 1) == 0, "days count from 1970");
  must(days_from_civil(2000, 3, 1) - days_from_civil(2000, 2, 28) == 2,
       "2000 has a leap day");
  must(days_from_civil(2100, 3, 1) - days_from_civil(2100, 2, 28) == 1,
       "2100 has none");
  must(weekday(0) == 4, "1970-01-01 was a Thursday");
  const std::int64_t last = days_from_civil(9999, 12, 31);
  Civil before{0, 12, 31};
  for (std::int64_t day = days_from_civil(1, 1, 1); day <= last; ++day) {
    const Civil at = civil_from_days(day);
    must(days_from_civil(at.year, at.month, at.day) == day,
         "a day's date is that day");
    const bool next = at.day == before.day + 1 && at.month == before.month;
    const bool month = at.day == 1 && (at.month == before.month % 12 + 1) &&
                       (before.year == 0 ||
                        before.day == days_in_month(before.year, before.month));
    must(next || month, "dates follow on each other");
    before = at;
  }
}

void sums() {
  Sum sum;
  for (const double x : {1.0, 1e100, 1.0, -1e100}) sum.add(x);
  must(sum.value() == 2, "a sum loses nothing to a large figure");
  const std::vector<double> x = noise(1000);
  Statistics whole, first, second;
  for (std::size_t i = 0; i < x.size(); ++i) {
    whole.add(x[i] + 1e9, static_cast<double>(i));
    (i < 300 ? first : second).add(x[i] + 1e9, static_cast<double>(i));
  }
  second.add(first);  // in any order
  must(near(second.deviation(), whole.deviation(), 1e-9),
       "spreads of parts merge to that of the whole");
  must(second.first == whole.first && second.last == whole.last,
       "first and last are those in time");
  must(second.lowest == whole.lowest && second.records == 1000,
       "extremes and counts merge");
}

void quantiles() {
  for (std::size_t n : {1u, 2u, 5u, 40u}) {
    const std::vector<double> x = noise(n);
    std::vector<double> sorted = x;
    std::sort(sorted.begin(), sorted.end());
    for (const double share : {0.0, 0.1, 0.5, 0.9, 1.0}) {
      std::vector<double> any = x;
      const double rank = static_cast<double>(n - 1) * share;
      const std::size_t below = static_cast<std::size_t>(rank);
      const double above = sorted[std::min(below + 1, n - 1)];
      const double by_hand =
          sorted[below] +
          (rank - static_cast<double>(below)) * (above - sorted[below]);
      must(near(quantile(any.data(), any.data() + n, share), by_hand),
           "a quantile lies between the two nearest ranks");
    }
  }
}

void windows() {
  std::vector<double> x = noise(500);
  for (std::size_t i = 0; i < x.size(); i += 37) x[i] = nan_value;
  for (std::ptrdiff_t width : {1, 2, 7, 100, 500}) {
    std::size_t seen = 0;
    each_window<PartSum>(
        x.data(), x.size(), {0, x.size()},
        [&](std::size_t row) {
          const std::ptrdiff_t end = static_cast<std::ptrdiff_t>(row) + 1;
          return Window{end - width, end};
        },
        [&](std::size_t row, const Window& window, const PartSum& part) {
          Sum sum;
          std::int64_t count = 0;
          for (std::ptrdiff_t i = window.first; i < window.end; ++i) {
            const double value = x[static_cast<std::size_t>(i)];
            if (std::isnan(value)) continue;
            sum.add(value);
            ++count;
          }
          must(window.end == static_cast<std::ptrdiff_t>(row) + 1,
               "a trailing window ends with its row");
          must(part.count == count && near(part.sum.value(), sum.value()),
               "a window holds its figures");
          ++seen;
        });
    must(seen == x.size() - static_cast<std::size_t>(width) + 1,
         "windows that reach outside are lost");
  }
}

void lags() {
  const std::vector<double> a = noise(3000), b = noise(3000);
  std::vector<double> one(41), other(41);
  lag_products_direct(a.data(), b.data(), a.size(), 40, one.data());
  lag_products_fourier(a.data(), b.data(), a.size(), 40, other.data());
  for (std::size_t k = 0; k <= 40; ++k)
    must(near(one[k], other[k], 1e-9), "both ways give the same products");
}

void rows_before() {
  const std::vector<std::int32_t> series{1, 1, 1, 2, 2};
  const std::vector<double> number{1, 2, 4, 1, 2};
  std::vector<std::ptrdiff_t> row;
  find_rows(
      series.data(), number.data(),
      [&](std::size_t i) { return number[i] - 1; }, 5,
      [&](std::size_t, std::ptrdiff_t found) { row.push_back(found); });
  must(row == std::vector<std::ptrdiff_t>({no_row, 0, no_row, no_row, 3}),
       "the row before is that of the period before, in the same series");
}

void grids() {
  const std::vector<double> number{3, 4, 7}, value{1, 2, 3};
  const Grid grid(number.data(), value.data(), 3);
  must(grid.size() == 5 && !grid.dense() && grid.place(2) == 4,
       "a grid has a place for each period");
  must(std::isnan(grid.x()[2]) && grid.x()[4] == 3, "holes hold no figure");
}

void turns() {
  const std::vector<double> x{0, 1, 2, 3, 2, 1, 0, 1, 2, 3, 4, 3, 2};
  const std::vector<Turn> found = turning_places(x.data(), x.size(), 2, false);
  must(found.size() == 3 && found[0].high && found[0].place == 3 &&
           !found[1].high && found[1].place == 6 && found[2].place == 10,
       "highs and lows take turns");
}

void what_is_usual() {
  Usual usual;
  for (int i = 0; i < 8; ++i) {
    must(usual.side_of(5, 0.5) == 0, "of a few nothing is usual");
    usual.add(i, i % 2 == 0 ? 1 : -1, 0.01 * i);
  }
  must(usual.side_of(0.5, 0) == 1 && usual.side_of(-0.5, 0) == -1,
       "amounts that do not drift are judged by their mean");
}

void side_by_side_work() {
  std::vector<int> done(2000000, 0);
  in_stretches(static_cast<std::ptrdiff_t>(done.size()),
               [&](std::ptrdiff_t start, std::ptrdiff_t end) {
                 for (std::ptrdiff_t i = start; i < end; ++i)
                   ++done[static_cast<std::size_t>(i)];
               });
  must(std::all_of(done.begin(), done.end(), [](int n) { return n == 1; }),
       "each place is worked on once");
  in_stretches(0, [](std::ptrdiff_t, std::ptrdiff_t) {
    must(false, "of nothing there is nothing to do");
  });
}

void pairs() {
  const double none = std::nan("");
  const std::vector<double> x{1, 2, none, 4, 5}, y{2, 4, 6, none, 10};
  const Together both =
      together(PairColumn(x.data(), 5), PairColumn(y.data(), 5));
  must(both.n == 3 && near(both.correlation(), 1),
       "a pair has the rows that both have");
  must(near(concordance({1, 2, 3, 4}, {1, 3, 2, 4}), 4.0 / 6),
       "of six pairs one stands the wrong way around");
  must(ranks_of({3, 1, 3}) == std::vector<double>({2.5, 1, 2.5}),
       "equal figures share their ranks");
  const double r[] = {0.6, 0.36};
  must(pairs_worth(10, r, r, 2) < 10, "memory makes pairs worth less");
}

void known_then() {
  // Two periods, of which the first is corrected after the second is known, and
  // the second is taken back.
  const double period[] = {1, 2, 1, 2}, known[] = {5, 8, 9, 11},
               value[] = {1, 2, 3, std::nan("")}, days[] = {4, 5, 8, 9, 11};
  int row[] = {0, 0, 0, 0, 0};
  latest_known(period, known, value, 0, 4, days, 5, row);
  must(row[0] == 0 && row[1] == 1 && row[2] == 2 && row[3] == 2,
       "the latest period that is known counts");
  must(row[4] == 3, "what is taken back is not known any more");
}

}  // namespace

int main() {
  days_of_the_calendar();
  sums();
  quantiles();
  windows();
  lags();
  rows_before();
  grids();
  turns();
  what_is_usual();
  pairs();
  known_then();
  side_by_side_work();
  std::puts("ok");
}
