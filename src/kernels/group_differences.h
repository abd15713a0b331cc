// Whether groups of a series' places differ by more than chance, which is asked
// in whole blocks of places.
#ifndef BACKFILL_GROUP_DIFFERENCES_H
#define BACKFILL_GROUP_DIFFERENCES_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstdint>
#include <functional>
#include <limits>
#include <utility>
#include <vector>

#include "draws.h"
#include "quantile.h"

namespace backfill {

// `base` places are the least that a block has; blocks are turned about by
// multiples of `turn`. With `lengthen` they are made as long as the memory of
// the remainders asks for.
struct GroupRule {
  std::size_t groups, base, turn;
  bool lengthen, median;
  double tail;
  std::size_t draws;
  std::uint64_t seed;
};

struct GroupsFound {
  std::vector<double> count, mean, median, difference, lower, upper, p;
  double n = 0, groups = 0, explained, p_of_all;
  double block = 0, blocks = 0;

  explicit GroupsFound(std::size_t size)
      : count(size),
        mean(size, none()),
        median(mean),
        difference(mean),
        lower(mean),
        upper(mean),
        p(mean),
        explained(none()),
        p_of_all(none()) {}
  static double none() { return std::numeric_limits<double>::quiet_NaN(); }
};

// The places of one series: values, NaN where there is none, and the codes of
// their groups, -1 where there is none.
class GroupFinder {
 public:
  // `go_on` is asked at each draw; what was found means nothing once it says
  // no.
  GroupFinder(const std::vector<double>& value, const std::vector<int>& code,
              const GroupRule& rule, std::function<bool()> go_on)
      : value_(value),
        code_(code),
        rule_(rule),
        go_on_(std::move(go_on)),
        found_(rule.groups) {}

  // Without chances where it is not `judged`.
  GroupsFound find(bool judged) {
    const Statistics own = statistics(value_, code_);
    found_.count = own.count;
    found_.mean = own.mean;
    found_.median = medians(value_, code_);
    found_.difference = own.difference;
    for (double n : own.count) found_.n += n, found_.groups += n > 0;
    describe_variation();
    find_memory();
    found_.block = static_cast<double>(block_length());
    found_.blocks =
        std::ceil(static_cast<double>(value_.size()) / found_.block);
    if (!judged || found_.groups < 2 || !(all_ > 0)) return found_;
    draw(own);
    return found_;
  }

 private:
  struct Statistics {
    std::vector<double> count, mean, difference;
    double between = 0;
  };

  // Of each group its count and mean, how far its middle is from that of the
  // others, and how far all middles lie from that of all.
  Statistics statistics(const std::vector<double>& x,
                        const std::vector<int>& code) {
    Statistics out;
    const std::size_t k = rule_.groups;
    out.count.assign(k, 0);
    out.mean.assign(k, 0);
    out.difference.assign(k, GroupsFound::none());
    double n = 0, total = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
      if (code[i] < 0 || std::isnan(x[i])) continue;
      const std::size_t g = static_cast<std::size_t>(code[i]);
      ++out.count[g];
      out.mean[g] += x[i];
      ++n;
      total += x[i];
    }
    for (std::size_t g = 0; g < k; ++g) {
      const double sum = out.mean[g], own = out.count[g];
      out.mean[g] = own > 0 ? sum / own : GroupsFound::none();
      if (own == 0) continue;
      if (!rule_.median) {
        const double off = out.mean[g] - total / n;
        out.between += own * off * off;
        if (n > own)
          out.difference[g] = out.mean[g] - (total - sum) / (n - own);
      }
    }
    if (rule_.median) compare_medians(x, code, &out);
    return out;
  }

  void compare_medians(const std::vector<double>& x,
                       const std::vector<int>& code, Statistics* out) {
    const double middle = middle_of(x, code, [](int) { return true; });
    for (int g = 0; g < static_cast<int>(rule_.groups); ++g) {
      const std::size_t at = static_cast<std::size_t>(g);
      if (out->count[at] == 0) continue;
      const double own = middle_of(x, code, [g](int c) { return c == g; });
      out->between += out->count[at] * (own - middle) * (own - middle);
      out->difference[at] =
          own - middle_of(x, code, [g](int c) { return c != g; });
    }
  }

  template <typename Wanted>
  double middle_of(const std::vector<double>& x, const std::vector<int>& code,
                   Wanted wanted) {
    sorted_.clear();
    for (std::size_t i = 0; i < x.size(); ++i)
      if (code[i] >= 0 && wanted(code[i]) && !std::isnan(x[i]))
        sorted_.push_back(x[i]);
    return quantile(sorted_.data(), sorted_.data() + sorted_.size(), 0.5);
  }

  std::vector<double> medians(const std::vector<double>& x,
                              const std::vector<int>& code) {
    std::vector<double> out(rule_.groups);
    for (std::size_t g = 0; g < out.size(); ++g)
      out[g] =
          middle_of(x, code, [g](int c) { return c == static_cast<int>(g); });
    return out;
  }

  // What is left of each value without the middle of its group, and which share
  // of the variation the groups' means are.
  void describe_variation() {
    const std::vector<double>& middle =
        rule_.median ? found_.median : found_.mean;
    left_.assign(value_.size(), GroupsFound::none());
    double total = 0;
    for (std::size_t g = 0; g < rule_.groups; ++g)
      if (found_.count[g] > 0) total += found_.count[g] * found_.mean[g];
    const double whole = total / found_.n;
    double within = 0;
    for (std::size_t i = 0; i < value_.size(); ++i) {
      if (code_[i] < 0 || std::isnan(value_[i])) continue;
      const std::size_t g = static_cast<std::size_t>(code_[i]);
      left_[i] = value_[i] - middle[g];
      within += std::pow(value_[i] - found_.mean[g], 2);
      all_ += std::pow(value_[i] - whole, 2);
    }
    if (all_ > 0) found_.explained = std::max(0.0, 1 - within / all_);
  }

  // The lag-1 autocorrelation of what is left, with what the groups' means take
  // of it put back; 0 where that is below.
  void find_memory() {
    double products = 0, squares = 0, count = 0, pairs = 0;
    for (std::size_t i = 0; i < left_.size(); ++i) {
      if (std::isnan(left_[i])) continue;
      squares += left_[i] * left_[i];
      ++count;
      if (i == 0 || std::isnan(left_[i - 1])) continue;
      products += left_[i] * left_[i - 1];
      ++pairs;
    }
    if (pairs < 2 || !(squares > 0)) return;
    const double low = products / pairs / (squares / count);
    memory_ = std::max(0.0, std::min(0.95, low + (2 + 4 * low) / count));
  }

  std::size_t block_length() const {
    const double r = memory_;
    if (!rule_.lengthen || r == 0) return rule_.base;
    const double wanted =
        std::pow(2 * r / (1 - r * r), 2.0 / 3) * std::cbrt(found_.n);
    const double base = static_cast<double>(rule_.base);
    // Fewer than eight blocks have few orders.
    const double most =
        std::floor(static_cast<double>(value_.size()) / 8 / base);
    return rule_.base * static_cast<std::size_t>(std::max(
                            1.0, std::min(most, std::ceil(wanted / base))));
  }

  // Of each group what the variance of its difference would be if each value
  // remembered the one before. With r the memory, a the sum of the weights of
  // the group and of the others, and b that of the others, it is a a S(g, g) -
  // 2 a b S(g, all) + b b S(all, all), where S adds up r to the power of the
  // distance over all pairs of places.
  std::vector<double> carried(const std::vector<int>& code) {
    const std::size_t n = code.size(), k = rule_.groups;
    const auto there = [&](std::size_t i) {
      return code[i] >= 0 && !std::isnan(value_[i]);
    };
    reach_.assign(n, 1);
    double behind = 0, ahead = 0, count = 0, all = 0;
    for (std::size_t i = 0; i < n; ++i) {
      reach_[i] += behind;
      behind = memory_ * (behind + there(i));
    }
    for (std::size_t i = n; i-- > 0;) {
      reach_[i] += ahead;
      ahead = memory_ * (ahead + there(i));
    }
    std::vector<double> own(k), so_far(k), within(k), with_all(k), out(k);
    std::vector<std::size_t> last(k);
    for (std::size_t i = 0; i < n; ++i) {
      if (!there(i)) continue;
      const std::size_t g = static_cast<std::size_t>(code[i]);
      const double before =
          so_far[g] * std::pow(memory_, static_cast<double>(i - last[g]));
      within[g] += 1 + 2 * before;
      so_far[g] = before + 1;
      last[g] = i;
      with_all[g] += reach_[i];
      all += reach_[i];
      ++own[g], ++count;
    }
    for (std::size_t g = 0; g < k; ++g) {
      const double b = 1 / (count - own[g]), a = 1 / own[g] + b;
      out[g] = a * a * within[g] - 2 * a * b * with_all[g] + b * b * all;
    }
    return out;
  }

  // The groups in whole blocks, each turned about, in random order.
  void shuffle(Draws* draws) {
    const std::size_t n = code_.size(),
                      length = static_cast<std::size_t>(found_.block),
                      blocks = (n + length - 1) / length;
    order_.resize(blocks);
    for (std::size_t b = 0; b < blocks; ++b) order_[b] = b;
    for (std::size_t b = blocks; b > 1; --b)
      std::swap(order_[b - 1], order_[draws->below(b)]);
    drawn_.clear();
    for (std::size_t b : order_) {
      const std::size_t from = b * length, to = std::min(n, from + length),
                        turns = (to - from + rule_.turn - 1) / rule_.turn,
                        by = draws->below(turns) * rule_.turn;
      for (std::size_t i = from; i < to; ++i)
        drawn_.push_back(code_[from + (i - from + by) % (to - from)]);
    }
  }

  void draw(const Statistics& own) {
    const std::size_t k = rule_.groups;
    std::vector<std::vector<double>> other(k), rest(k);
    std::vector<double> between, carried_by(k);
    Draws draws(rule_.seed);
    for (std::size_t d = 0; d < rule_.draws && go_on_(); ++d) {
      shuffle(&draws);
      const Statistics of_draw = statistics(value_, drawn_);
      const Statistics left = statistics(left_, drawn_);
      between.push_back(of_draw.between);
      const std::vector<double> memory =
          memory_ > 0 ? carried(drawn_) : std::vector<double>(k);
      for (std::size_t g = 0; g < k; ++g) {
        if (std::isnan(of_draw.difference[g])) continue;
        other[g].push_back(of_draw.difference[g]);
        rest[g].push_back(left.difference[g]);
        carried_by[g] += memory[g];
      }
    }
    const std::vector<double> carried_own =
        memory_ > 0 ? carried(code_) : std::vector<double>(k);
    double wide_of_all = 0;
    for (std::size_t g = 0; g < k; ++g) {
      if (std::isnan(own.difference[g])) continue;
      // Blocks in another order forget what one remembers of the one before.
      double wide = 1;
      const double drawn = static_cast<double>(other[g].size());
      if (memory_ > 0 && carried_by[g] > 0)
        wide = std::sqrt(std::max(1.0, carried_own[g] / carried_by[g] * drawn));
      wide_of_all += wide * own.count[g] / found_.n;
      found_.p[g] = share_beyond(other[g], rule_.draws,
                                 std::abs(own.difference[g]) / wide);
      // The remainders vary less than what they are left of.
      wide *= std::sqrt(found_.blocks / std::max(1.0, found_.blocks - 1));
      double* const from = rest[g].data();
      double* const to = from + rest[g].size();
      found_.lower[g] =
          own.difference[g] - wide * quantile(from, to, 1 - rule_.tail);
      found_.upper[g] =
          own.difference[g] - wide * quantile(from, to, rule_.tail);
    }
    found_.p_of_all = share_beyond(between, rule_.draws,
                                   own.between / (wide_of_all * wide_of_all));
  }

  const std::vector<double>& value_;
  const std::vector<int>& code_;
  const GroupRule rule_;
  const std::function<bool()> go_on_;
  GroupsFound found_;
  std::vector<double> left_, sorted_, reach_;
  std::vector<int> drawn_;
  std::vector<std::size_t> order_;
  double all_ = 0, memory_ = 0;
};

}  // namespace backfill

#endif
