// The discrete Fourier transform of a length that is a power of two: Cooley, J.
// W. and Tukey, J. W. (1965). An algorithm for the machine calculation of
// complex Fourier series. Mathematics of Computation 19, 297-301.
#ifndef BACKFILL_FOURIER_H
#define BACKFILL_FOURIER_H

#include <cmath>
#include <complex>
#include <cstddef>
#include <utility>
#include <vector>

namespace backfill {

class Fourier {
 public:
  using Number = std::complex<double>;

  explicit Fourier(std::size_t size) : size_(size), turn_(size / 2) {
    const double step = -2 * std::acos(-1.0) / static_cast<double>(size);
    for (std::size_t i = 0; i < turn_.size(); ++i)
      turn_[i] = std::polar(1.0, step * static_cast<double>(i));
  }

  std::size_t size() const { return size_; }

  // In place, forwards.
  void transform(Number* x) const {
    for (std::size_t i = 1, j = 0; i < size_; ++i) {
      std::size_t bit = size_ >> 1;
      for (; (j & bit) != 0; bit >>= 1) j ^= bit;
      j ^= bit;
      if (i < j) std::swap(x[i], x[j]);
    }
    for (std::size_t length = 2; length <= size_; length <<= 1) {
      const std::size_t half = length / 2, stride = size_ / length;
      for (std::size_t start = 0; start < size_; start += length) {
        for (std::size_t k = 0; k < half; ++k) {
          const Number turn = turn_[k * stride], odd = x[start + k + half];
          // Written out, as the operator looks for infinities.
          const Number turned(
              odd.real() * turn.real() - odd.imag() * turn.imag(),
              odd.real() * turn.imag() + odd.imag() * turn.real());
          x[start + k + half] = x[start + k] - turned;
          x[start + k] += turned;
        }
      }
    }
  }

 private:
  std::size_t size_;
  std::vector<Number> turn_;
};

// The transform of a length, kept for the next of the same length.
inline const Fourier& fourier_of(std::size_t size) {
  thread_local Fourier last(size);
  if (last.size() != size) last = Fourier(size);
  return last;
}

}  // namespace backfill

#endif
