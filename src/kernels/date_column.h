// A column of written dates, row by row, in one order; and what the rows tell
// about the other orders, so that the order that fits most of them can be
// found, and two that fit all can be told.
#ifndef BACKFILL_DATE_COLUMN_H
#define BACKFILL_DATE_COLUMN_H

#include <array>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <limits>
#include <numeric>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "written_date.h"

namespace backfill {

// A row that means different dates in two orders.
struct Doubt {
  std::size_t row;
  std::string text;
  std::array<double, 2> second;
};

struct OrderCount {
  std::size_t fits = 0;  // rows; a year in front speaks for one order only
  std::size_t decides =
      0;  // rows that no other order of day, month and year fits
  std::size_t differs = 0;  // rows without a year in front that another such
                            // order gives another date
  bool two_digits = false;  // in a year
};

// What the rows tell of texts such as 06:00-07:00, which are spans of time or
// times with an offset from UTC.
struct SpanCount {
  std::size_t sure = 0;        // can be nothing but spans
  std::size_t forward = 0;     // end after they start
  std::size_t backward = 0;    // do not, as times with an offset need not
  std::set<int> starts, ends;  // that occur, in minutes of the day
  std::set<std::pair<int, int>> both;

  void add(const Span& span) {
    sure += span.sure;
    (span.end > span.start || span.end == 0 ? forward : backward) += 1;
    starts.insert(span.start);
    ends.insert(span.end);
    both.insert({span.start, span.end});
  }
};

// Of the times of day: whether they run from the first step of a day to 24:00
// and never stand at 00:00.
struct DayEnds {
  static constexpr std::int64_t finest = 300;
  std::size_t at_24 = 0, at_0 = 0;
  std::int64_t step = 0;  // greatest common divisor of the seconds of the day
  std::array<bool, 86400 / finest + 1> there{};

  void add(const Moment& m) {
    const std::int64_t second =
        m.end_of_day ? 86400 : static_cast<std::int64_t>(m.second) % 86400;
    const std::int64_t of_day = second < 0 ? second + 86400 : second;
    at_24 += m.end_of_day;
    at_0 += of_day == 0;
    if (step == 0 || of_day % step != 0) step = std::gcd(step, of_day);
    if (of_day % finest == 0)
      there[static_cast<std::size_t>(of_day / finest)] = true;
  }
};

class DateColumn {
 public:
  // `second` has a place for each row. With `spans`, what can be a span of time
  // is one, read as its start, or with `at_end` as its end.
  DateColumn(double* second, DateRules rules, DateOrder order, bool spans,
             bool at_end)
      : second_(second),
        rules_(rules),
        order_(static_cast<std::size_t>(order)),
        spans_(spans),
        at_end_(at_end),
        cache_(4096) {}

  // Of the rows that cannot be used, with code 5 for those that another order
  // fits.
  std::vector<int> bad;
  std::vector<int> code;
  std::vector<int> coarse;  // rows read that name no day
  std::size_t fine = 0;     // rows read that do
  bool timed = false;
  std::vector<int> with_offset;
  std::array<OrderCount, date_orders> count{};
  // Rows in doubt between two orders, three texts at most: [i][j] with i < j.
  std::array<std::array<std::vector<Doubt>, date_orders>, date_orders> doubt;
  std::ptrdiff_t first_fiscal = -1, first_span = -1;
  SpanCount span;
  DayEnds day_ends;

  void add(std::size_t row, const char* text, std::size_t n) {
    const WrittenDate& date = read(text, n);
    const Moment& m = date.by[order_];
    if (m.span.there()) span.add(m.span);
    if (m.outcome == Outcome::read) {
      second_[row] = m.second;
      if (m.precision >= Precision::day) {
        ++fine;
        if (m.precision == Precision::time) {
          timed = true;
          if (!m.has_offset) day_ends.add(m);
        }
      } else {
        coarse.push_back(static_cast<int>(row));
      }
      if (m.has_offset) with_offset.push_back(static_cast<int>(row));
    } else {
      second_[row] = std::numeric_limits<double>::quiet_NaN();
      bad.push_back(static_cast<int>(row));
      code.push_back(m.outcome != Outcome::blank && fits_any(date)
                         ? 5
                         : static_cast<int>(m.outcome));
    }
    if (date.year_first && date.by[3].outcome != Outcome::read) {
      count[0].fits +=
          m.outcome == Outcome::read || date.by[0].outcome == Outcome::read;
    } else {
      tally(row, text, n, date);
    }
  }

 private:
  static constexpr std::size_t longest_kept = 32;
  struct Entry {
    std::array<char, longest_kept> text{};
    std::size_t length = 0;  // 0 where the place is free
    WrittenDate date{};
  };

  static bool fits_any(const WrittenDate& date) {
    for (const Moment& m : date.by) {
      if (m.outcome == Outcome::read) return true;
    }
    return false;
  }

  // Texts repeat; each is read once for as long as it keeps its place.
  WrittenDate read_anew(const char* text, std::size_t n) const {
    WrittenDate date = read_written_date(text, n, rules_);
    for (Moment& m : date.by) {
      if (m.outcome != Outcome::read || !m.span.there()) continue;
      if (spans_) {
        m.second = m.span.second;
        m.has_offset = false;
      }
      if (at_end_ && (spans_ || m.span.sure)) m.second += m.span.length();
    }
    return date;
  }

  const WrittenDate& read(const char* text, std::size_t n) {
    if (n == 0 || n > longest_kept) return unkept_ = read_anew(text, n);
    Entry& entry = cache_[hash(text, n) & (cache_.size() - 1)];
    if (entry.length != n || std::memcmp(entry.text.data(), text, n) != 0) {
      std::memcpy(entry.text.data(), text, n);
      entry.length = n;
      entry.date = read_anew(text, n);
    }
    return entry.date;
  }

  static std::size_t hash(const char* text, std::size_t n) {
    std::uint64_t hash = n, part = 0;
    for (; n >= 8; n -= 8, text += 8) {
      std::memcpy(&part, text, 8);
      hash = (hash ^ part) * 0x9e3779b97f4a7c15ULL;
      hash ^= hash >> 32;
    }
    part = 0;
    std::memcpy(&part, text, n);
    hash = (hash ^ part) * 0x9e3779b97f4a7c15ULL;
    return static_cast<std::size_t>(hash ^ hash >> 32);
  }

  void tally(std::size_t row, const char* text, std::size_t n,
             const WrittenDate& date) {
    if (date.fiscal && first_fiscal < 0)
      first_fiscal = static_cast<std::ptrdiff_t>(row);
    std::array<bool, date_orders> fits{};
    for (std::size_t k = 0; k < date_orders; ++k)
      fits[k] = date.by[k].outcome == Outcome::read;
    if (fits[3] && !date.fiscal && first_span < 0)
      first_span = static_cast<std::ptrdiff_t>(row);
    for (std::size_t k = 0; k < date_orders; ++k) {
      if (!fits[k] || (date.year_first && (k == 1 || k == 2))) continue;
      ++count[k].fits;
      count[k].two_digits = count[k].two_digits || date.two_digits[k];
      if (date.year_first) continue;
      bool alone = true, differs = false;
      for (std::size_t other = 0; other < 3; ++other) {
        if (other == k || !fits[other]) continue;
        alone = false;
        differs = differs || date.by[other].second != date.by[k].second;
      }
      count[k].decides += alone;
      count[k].differs += differs;
    }
    for (std::size_t i = 0; i < date_orders; ++i) {
      for (std::size_t j = i + 1; j < date_orders; ++j) {
        const bool speak =
            !date.year_first || (i != 1 && i != 2 && j != 1 && j != 2);
        if (speak && fits[i] && fits[j] &&
            date.by[i].second != date.by[j].second) {
          note_doubt(&doubt[i][j], row, text, n,
                     {date.by[i].second, date.by[j].second});
        }
      }
    }
  }

  static void note_doubt(std::vector<Doubt>* doubts, std::size_t row,
                         const char* text, std::size_t n,
                         std::array<double, 2> second) {
    if (doubts->size() >= 3) return;
    const std::string said(text, n);
    for (const Doubt& known : *doubts) {
      if (known.text == said) return;
    }
    doubts->push_back({row, said, second});
  }

  double* second_;
  DateRules rules_;
  std::size_t order_;
  bool spans_, at_end_;
  std::vector<Entry> cache_;
  WrittenDate unkept_{};
};

}  // namespace backfill

#endif
