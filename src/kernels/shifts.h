// Where the level of a series changed, by least squares, with or without a
// season and a straight line beside.
#ifndef BACKFILL_SHIFTS_H
#define BACKFILL_SHIFTS_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <limits>
#include <utility>
#include <vector>

#include "accumulate.h"
#include "basis.h"
#include "draws.h"
#include "memory.h"

namespace backfill {

// A cycle of 1 has no season.
struct ShiftRule {
  std::size_t most, least, cycle;
  bool line;
  double chance;  // a shift is taken where p is no larger
  std::size_t draws;
  std::uint64_t seed;
};

// `row` is the first one at the new level; `taken` over how many places a level
// changed, 0 at once; `reach` and `error` come with the remainders' long
// memory.
struct Shift {
  std::size_t row = 0;
  double p = 1, before = 0, size = 0, error = 0, reach = 0, taken = 0;
};

struct ShiftsFound {
  std::vector<Shift> shifts;
  Column level;                                         // without the season
  double p = std::numeric_limits<double>::quiet_NaN();  // of the next one
  double memory = 0, explained = 0;
  double line_p = 0;  // of the series if it is a straight line

  // Of the shift that was surest.
  double shifts_p() const {
    double least = 1;
    for (const Shift& one : shifts) least = std::min(least, one.p);
    return least;
  }
};

class ShiftFinder {
 public:
  // Values without those that are missing, at their places. `go_on` is asked at
  // each draw; what was found means nothing once it says no.
  ShiftFinder(const Column& y, const Column& place,
              const std::vector<int>& position, const ShiftRule& rule,
              std::function<bool()> go_on)
      : y_(y), place_(place), rule_(rule), go_on_(std::move(go_on)) {
    position_ = position;
    if (rule_.line) base_.push_back(place_);
  }

  ShiftsFound find() {
    const std::size_t n = y_.size();
    const auto range = std::minmax_element(y_.begin(), y_.end());
    if (n < 2 * rule_.least || n < with_steps({}).size() + 4 ||
        *range.first == *range.second)
      return found_;
    while (rows_.size() < rule_.most) {
      const Basis basis = with_steps(rows_);
      const Column left = basis.left_of(y_);
      const Best best = scan(basis, left, rows_);
      if (best.row == 0) break;
      found_.p = chance_of(basis, best);
      if (!(found_.p <= rule_.chance)) break;
      chances_.push_back(found_.p);
      rows_.push_back(best.row);
      settle();
    }
    describe();
    return found_;
  }

 private:
  struct Best {
    std::size_t row = 0;
    double gain = 0, share = 0;  // of the squares left
  };

  Column step(std::size_t row) const {
    Column out(y_.size());
    std::fill(out.begin() + static_cast<std::ptrdiff_t>(row), out.end(), 1);
    return out;
  }

  Basis with_steps(const std::vector<std::size_t>& rows) const {
    Basis basis(position_, rule_.cycle);
    for (const Column& one : base_) basis.add(one);
    for (std::size_t row : rows) basis.add(step(row));
    return basis;
  }

  // The step that takes most of what is left, with `least` rows on either side.
  Best scan(const Basis& basis, const Column& left,
            const std::vector<std::size_t>& rows) const {
    const std::size_t n = left.size();
    Best best;
    const double all = product(left, left);
    Column sums(basis.columns().size()), behind(rule_.cycle);
    double sum = 0, held = 0;  // by the means at the positions
    for (std::size_t k = n; k-- > 1;) {
      sum += left[k];
      const std::size_t p = static_cast<std::size_t>(basis.position()[k]);
      held += (2 * behind[p] + 1) / basis.counts()[p];
      ++behind[p];
      double size = static_cast<double>(n - k) - held;
      for (std::size_t j = 0; j < sums.size(); ++j) {
        sums[j] += basis.columns()[j][k];
        size -= sums[j] * sums[j];
      }
      if (!fits(k, rows) || size < 1e-8 * static_cast<double>(n)) continue;
      const double gain = sum * sum / size;
      if (gain > best.gain) best.row = k, best.gain = gain;
    }
    best.share = all > 0 ? best.gain / all : 0;
    return best;
  }

  bool fits(std::size_t k, const std::vector<std::size_t>& rows) const {
    if (k < rule_.least || k + rule_.least > y_.size()) return false;
    for (std::size_t row : rows)
      if (k < row + rule_.least && row < k + rule_.least) return false;
    return true;
  }

  // The lag-1 autocorrelation of what is left.
  double memory_of(const Column& left) const {
    double products = 0, pairs = 0;
    for (std::size_t i = 1; i < left.size(); ++i) {
      if (place_[i] != place_[i - 1] + 1) continue;
      products += left[i] * left[i - 1];
      ++pairs;
    }
    const double n = static_cast<double>(left.size()),
                 squares = product(left, left);
    if (pairs < 2 || !(squares > 0)) return 0;
    return std::max(0.0, std::min(0.95, products / pairs / (squares / n)));
  }

  // The columns of a fit, those of the positions among them.
  std::vector<Column> columns_of(const std::vector<std::size_t>& rows) const {
    std::vector<Column> out(rule_.cycle, Column(y_.size()));
    for (std::size_t i = 0; i < y_.size(); ++i)
      out[static_cast<std::size_t>(position_[i])][i] = 1;
    out.erase(std::remove_if(
                  out.begin(), out.end(),
                  [](const Column& one) { return product(one, one) == 0; }),
              out.end());
    out.insert(out.end(), base_.begin(), base_.end());
    for (std::size_t row : rows) out.push_back(step(row));
    return out;
  }

  // What is left beside steps, once further ones are taken until there are so
  // many: a step that is still to come is not memory.
  Column left_after(std::vector<std::size_t>* rows, std::size_t most,
                    const Column& y) const {
    Basis basis = with_steps(*rows);
    Column left = basis.left_of(y);
    while (rows->size() < most) {
      const Best next = scan(basis, left, *rows);
      if (next.row == 0) break;
      rows->push_back(next.row);
      basis.add(step(next.row));
      left = basis.left_of(left);
    }
    return left;
  }

  // How often series without the step, made of what is left beside it, have
  // one as large.
  double chance_of(const Basis& basis, const Best& best) {
    std::vector<std::size_t> rows = rows_;
    rows.push_back(best.row);
    const Column left = left_after(&rows, rule_.most, y_);
    const Remaking remaking(left, y_, columns_of(rows), place_);
    std::vector<double> drawn;
    Draws draws(rule_.seed);
    for (std::size_t d = 0; d < rule_.draws && go_on_(); ++d) {
      const Column made = basis.left_of(remaking.made(&draws));
      drawn.push_back(scan(basis, made, rows_).share);
    }
    return share_beyond(drawn, rule_.draws, best.share);
  }

  // Each step again, given the others, until none moves.
  void settle() {
    for (int pass = 0; pass < 10; ++pass) {
      bool moved = false;
      for (std::size_t& row : rows_) {
        std::vector<std::size_t> others;
        for (std::size_t one : rows_)
          if (one != row) others.push_back(one);
        const Basis basis = with_steps(others);
        const Best best = scan(basis, basis.left_of(y_), others);
        if (best.row == 0 || best.row == row) continue;
        row = best.row;
        moved = true;
      }
      if (!moved) return;
    }
  }

  void describe() {
    const Basis without = with_steps({}), with = with_steps(rows_);
    const Column left = with.left_of(y_), before = without.left_of(y_);
    const double rest = product(left, left), all = product(before, before);
    found_.explained = all > 0 ? 1 - rest / all : 0;
    found_.memory = memory_of(with.left_of(y_));
    const Column b = with.solve(y_);
    found_.level = level_of(b, with);
    if (rows_.empty()) return;
    if (!rule_.line) {
      found_.line_p = chance_of_line(rest);
    }
    const std::vector<Likely> likely =
        likely_memories(y_, columns_of(rows_), place_);
    const std::size_t first = b.size() - rows_.size();
    for (std::size_t j = 0; j < rows_.size(); ++j) {
      Shift one;
      one.row = rows_[j];
      one.p = chances_[j];
      one.size = b[first + j];
      one.before = found_.level[one.row] - one.size;
      Column share = others_of(j).left_of(step(one.row));
      const double places = product(share, share);
      for (double& x : share) x /= places;
      one.error = std::sqrt(variance_of(share, place_, likely));
      one.reach = one.error * one.error * places / (one.size * one.size);
      one.taken = taken_over(j, rest);
      found_.shifts.push_back(one);
    }
    std::sort(found_.shifts.begin(), found_.shifts.end(),
              [](const Shift& a, const Shift& b) { return a.row < b.row; });
  }

  // How often series that are a straight line are described by as many steps so
  // much better than by a line; above 1 where the line describes this one
  // better.
  double chance_of_line(double rest) const {
    Basis line = with_steps({}), both = with_steps(rows_);
    line.add(place_);
    both.add(place_);
    std::vector<Column> columns = columns_of(rows_);
    columns.push_back(place_);
    const Column left = line.left_of(y_);
    const double own = product(left, left) / rest;
    if (!(own > 1)) return 2;
    Column fitted = y_;
    subtract(&fitted, left, 1);
    // Made of what neither tells, or a step would pass for memory.
    const Remaking remaking(both.left_of(y_), y_, columns, place_);
    std::vector<double> drawn;
    Draws draws(rule_.seed);
    for (std::size_t d = 0; d < rule_.draws && go_on_(); ++d) {
      Column made = remaking.made(&draws);
      subtract(&made, fitted, -1);
      const Column beside = line.left_of(made);
      std::vector<std::size_t> rows;
      const Column stepped = left_after(&rows, rows_.size(), made);
      drawn.push_back(product(beside, beside) / product(stepped, stepped));
    }
    return share_beyond(drawn, rule_.draws, own);
  }

  // The fit without the season.
  Column level_of(const Column& b, const Basis& with) const {
    Column out(y_.size());
    if (rule_.line) subtract(&out, place_, -b[0]);
    const std::size_t first = b.size() - rows_.size();
    for (std::size_t j = 0; j < rows_.size(); ++j)
      subtract(&out, step(rows_[j]), -b[first + j]);
    Column rest = y_;
    subtract(&rest, out, 1);
    const double level = with.level(rest);
    for (double& one : out) one += level;
    return out;
  }

  Basis others_of(std::size_t j) const {
    std::vector<std::size_t> others = rows_;
    others.erase(others.begin() + static_cast<std::ptrdiff_t>(j));
    return with_steps(others);
  }

  // Over how many rows a level changes, if a ramp in place of the step leaves
  // less by more than chance; 0 where the step will do.
  double taken_over(std::size_t j, double rest) const {
    const Basis others = others_of(j);
    const Column left = others.left_of(y_);
    const double own = product(left, left) - rest;
    const std::size_t row = rows_[j], n = y_.size();
    std::size_t from = 0, to = n;
    for (std::size_t one : rows_) {
      if (one < row) from = std::max(from, one);
      if (one > row) to = std::min(to, one);
    }
    double best = own, out = 0;
    Column beside;
    for (std::size_t width = 2; width <= to - from; width *= 2) {
      const std::size_t stride = std::max<std::size_t>(1, width / 8);
      for (std::size_t start = from; start + width <= to; start += stride) {
        if (start + width < row || start > row) continue;
        const Column ramp = others.left_of(rising(start, width));
        const double size = product(ramp, ramp), part = product(ramp, left);
        if (size < 1e-8 * static_cast<double>(n)) continue;
        const double gain = part * part / size;
        if (gain <= best) continue;
        best = gain, out = static_cast<double>(width);
        beside = left;
        subtract(&beside, ramp, part / size);
      }
    }
    if (out == 0) return 0;
    const double r = memory_of(beside),
                 free = static_cast<double>(n) -
                        static_cast<double>(others.size());
    const double noise =
        (1 + r) / (1 - r) * product(beside, beside) / std::max(1.0, free - 3);
    return best - own > 9 * noise ? out : 0;
  }

  // 0 up to `start`, 1 from `width` rows later on, even steps between.
  Column rising(std::size_t start, std::size_t width) const {
    Column out(y_.size());
    for (std::size_t i = 0; i < out.size(); ++i) {
      const double part =
          (static_cast<double>(i) - static_cast<double>(start) + 1) /
          static_cast<double>(width + 1);
      out[i] = std::min(1.0, std::max(0.0, part));
    }
    return out;
  }

  const Column& y_;
  const Column& place_;
  const ShiftRule rule_;
  const std::function<bool()> go_on_;
  std::vector<int> position_;
  std::vector<Column> base_;
  std::vector<std::size_t> rows_;
  Column chances_;
  ShiftsFound found_;
};

}  // namespace backfill

#endif
