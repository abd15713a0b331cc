// One series on its regular grid.
#ifndef BACKFILL_GRID_H
#define BACKFILL_GRID_H

#include <cstddef>
#include <limits>
#include <vector>

namespace backfill {

// The figures of a series on its regular grid: as they stand where no row is
// missing, else put to their places.
class Grid {
 public:
  Grid(const double* number, const double* value, std::size_t rows)
      : number_(number), x_(value), rows_(rows) {
    size_ = static_cast<std::size_t>(number[rows - 1] - number[0]) + 1;
    if (dense()) return;
    spread_.assign(size_, std::numeric_limits<double>::quiet_NaN());
    for (std::size_t i = 0; i < rows; ++i) spread_[place(i)] = value[i];
  }
  const double* x() const { return dense() ? x_ : spread_.data(); }
  std::size_t size() const { return size_; }
  bool dense() const { return size_ == rows_; }
  std::size_t place(std::size_t row) const {
    return dense() ? row : static_cast<std::size_t>(number_[row] - number_[0]);
  }

 private:
  const double* number_;
  const double* x_;
  std::size_t rows_, size_;
  std::vector<double> spread_;
};

}  // namespace backfill

#endif
