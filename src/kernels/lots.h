// Series shared out to processors: each works on the records of series of its
// own, so that no two write to one place and the result is the same, to the
// last bit, however many there are.
#ifndef BACKFILL_LOTS_H
#define BACKFILL_LOTS_H

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "side_by_side.h"

namespace backfill {

// The series numbered (from 1) from `from` to before `to`.
struct Lot {
  std::int32_t from, to;
};

constexpr std::size_t rows_at_a_time = 1024;

// How many of a block's rows a test holds for.
template <typename Test>
std::size_t count_rows(const std::int32_t* series, std::size_t size,
                       Test test) {
  std::uint32_t count = 0;
  if (size == rows_at_a_time) {
    // A length that is known lets the compiler take several at once.
    for (std::size_t i = 0; i < rows_at_a_time; ++i)
      count += test(series[i]) ? 1U : 0U;
  } else {
    for (std::size_t i = 0; i < size; ++i) count += test(series[i]) ? 1U : 0U;
  }
  return count;
}

// The rows of a block, counted from its first, that are of the lot's series.
struct LotRows {
  std::array<std::uint16_t, rows_at_a_time> row;
  std::size_t count = 0;
  bool one_series = false;  // all rows of the block are of one series; `row` is
                            // left as it is then

  void look(const std::int32_t* series, std::size_t size, Lot lot) {
    const std::int32_t first = series[0];
    const std::uint32_t from = static_cast<std::uint32_t>(lot.from),
                        width = static_cast<std::uint32_t>(lot.to) - from;
    const auto of_lot = [=](std::int32_t one) {
      return static_cast<std::uint32_t>(one) - from < width;
    };
    one_series = first == series[size - 1] &&
                 count_rows(series, size, [=](std::int32_t one) {
                   return one == first;
                 }) == size;
    count = one_series ? (of_lot(first) ? size : 0) : 0;
    if (one_series || count_rows(series, size, of_lot) == 0) return;
    for (std::size_t i = 0; i < size; ++i) {
      row[count] = static_cast<std::uint16_t>(i);
      count += of_lot(series[i]);
    }
  }
};

// Calls `use(series, first, end)` for rows of one series of the lot, in their
// order: for whole blocks at once, else for each row, as looking for runs costs
// more than short ones spare.
template <typename Use>
void each_run(const std::int32_t* series, std::size_t n, Lot lot, Use use) {
  LotRows rows;
  for (std::size_t from = 0; from < n; from += rows_at_a_time) {
    const std::size_t size = std::min(rows_at_a_time, n - from);
    rows.look(series + from, size, lot);
    if (rows.count == 0) continue;
    if (rows.one_series) {
      use(static_cast<std::size_t>(series[from] - 1), from, from + size);
      continue;
    }
    for (std::size_t k = 0; k < rows.count; ++k) {
      const std::size_t row = from + rows.row[k];
      use(static_cast<std::size_t>(series[row] - 1), row, row + 1);
    }
  }
}

// Calls `work` with lots of `series_count` series that have about as many of
// the rows each, side by side where there are rows enough to be worth it.
template <typename Work>
void share_out(const std::int32_t* series, std::size_t n,
               std::size_t series_count, Work work) {
  constexpr std::size_t worth = 200000, each_nth = 61;
  const std::size_t count =
      n < worth ? 1 : std::min(processors(), series_count);
  std::vector<Lot> lots{{1, static_cast<std::int32_t>(series_count) + 1}};
  if (count > 1) {
    std::vector<std::size_t> rows(series_count);
    for (std::size_t i = 0; i < n; i += each_nth)
      ++rows[static_cast<std::size_t>(series[i] - 1)];
    std::size_t seen = 0;
    for (std::int32_t s = 1; s < static_cast<std::int32_t>(series_count); ++s) {
      seen += rows[static_cast<std::size_t>(s - 1)];
      if (seen * count * each_nth < n * lots.size()) continue;
      lots.back().to = s + 1;
      lots.push_back({s + 1, static_cast<std::int32_t>(series_count) + 1});
    }
  }
  // Each with a copy of its own, as what it knows of the clock changes while it
  // works.
  side_by_side(lots.size(), [&](std::size_t i) {
    Work own = work;
    own(lots[i]);
  });
}

}  // namespace backfill

#endif
