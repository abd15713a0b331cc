// Columns made orthonormal, for fits by least squares.
#ifndef BACKFILL_BASIS_H
#define BACKFILL_BASIS_H

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <utility>
#include <vector>

namespace backfill {

using Column = std::vector<double>;

inline double product(const Column& a, const Column& b) {
  double sum = 0;
  for (std::size_t i = 0; i < a.size(); ++i) sum += a[i] * b[i];
  return sum;
}

inline void subtract(Column* from, const Column& what, double times) {
  for (std::size_t i = 0; i < from->size(); ++i) (*from)[i] -= times * what[i];
}

// What a fit holds: the mean at each position of a cycle (of one position, the
// mean of all), and columns beside. Columns are made orthonormal one by one,
// each twice, which keeps them so to the last digits: Björck, Å. (1996).
// Numerical Methods for Least Squares Problems, section 2.4. SIAM. Those that
// the ones before hold already are left out.
class Basis {
 public:
  Basis(const std::vector<int>& position, std::size_t cycle)
      : position_(position), counts_(cycle) {
    for (int at : position_) ++counts_[static_cast<std::size_t>(at)];
  }
  bool add(const Column& column) {
    Column left = column;
    centre(&left);
    Column parts(columns_.size());
    for (int pass = 0; pass < 2; ++pass)
      for (std::size_t j = 0; j < columns_.size(); ++j) {
        const double part = product(columns_[j], left);
        parts[j] += part;
        subtract(&left, columns_[j], part);
      }
    const double size = product(left, left);
    if (!(size > 1e-10 * product(column, column))) return false;
    const double length = std::sqrt(size);
    for (double& x : left) x /= length;
    parts.push_back(length);
    columns_.push_back(std::move(left));
    parts_.push_back(std::move(parts));
    return true;
  }
  Column left_of(Column y) const {
    centre(&y);
    for (const Column& one : columns_) subtract(&y, one, product(one, y));
    return y;
  }
  // The coefficients of the columns that were taken.
  Column solve(Column y) const {
    centre(&y);
    Column b(columns_.size());
    for (std::size_t j = 0; j < b.size(); ++j) {
      b[j] = product(columns_[j], y);
      subtract(&y, columns_[j], b[j]);
    }
    for (std::size_t j = b.size(); j-- > 0;) {
      b[j] /= parts_[j][j];
      for (std::size_t i = 0; i < j; ++i) b[i] -= parts_[j][i] * b[j];
    }
    return b;
  }
  // By position, 0 where there are no figures.
  Column means_of(const Column& y) const {
    Column means(counts_.size());
    for (std::size_t i = 0; i < y.size(); ++i)
      means[static_cast<std::size_t>(position_[i])] += y[i];
    for (std::size_t p = 0; p < means.size(); ++p)
      if (counts_[p] > 0) means[p] /= counts_[p];
    return means;
  }
  // The mean of the means at the positions.
  double level(const Column& y) const {
    const Column means = means_of(y);
    double sum = 0, there = 0;
    for (std::size_t p = 0; p < means.size(); ++p)
      if (counts_[p] > 0) sum += means[p], ++there;
    return sum / there;
  }
  const std::vector<Column>& columns() const { return columns_; }
  // How many figures the fit is made of.
  std::size_t size() const {
    return columns_.size() +
           static_cast<std::size_t>(std::count_if(
               counts_.begin(), counts_.end(), [](double n) { return n > 0; }));
  }
  const std::vector<int>& position() const { return position_; }
  const Column& counts() const { return counts_; }

 private:
  void centre(Column* y) const {
    const Column means = means_of(*y);
    for (std::size_t i = 0; i < y->size(); ++i)
      (*y)[i] -= means[static_cast<std::size_t>(position_[i])];
  }

  const std::vector<int>& position_;
  Column counts_;
  std::vector<Column> columns_, parts_;
};

}  // namespace backfill

#endif
