// Sums of products of figures so many places apart: for few figures or lags one
// by one, for many block by block through their Fourier transform.
#ifndef BACKFILL_LAG_PRODUCTS_H
#define BACKFILL_LAG_PRODUCTS_H

#include <algorithm>
#include <complex>
#include <cstddef>
#include <vector>

#include "accumulate.h"
#include "fourier.h"

namespace backfill {

// out[k] = sum of a[i] b[i + k] over i, for k = 0 to `most`.
inline void lag_products_direct(const double* a, const double* b, std::size_t n,
                                std::size_t most, double* out) {
  for (std::size_t k = 0; k <= most; ++k) {
    Sum sum;
    for (std::size_t i = 0; i + k < n; ++i) sum.add(a[i] * b[i + k]);
    out[k] = sum.value();
  }
}

// A block of `a` is set against as much of `b` and `most` figures more, both in
// one transform: one as its real, one as its imaginary part. The spectra add up
// over the blocks, so that one transform back is enough.
inline void lag_products_fourier(const double* a, const double* b,
                                 std::size_t n, std::size_t most, double* out) {
  std::size_t size = 1024;
  while (size < 4 * (most + 1) && size < 2 * n) size <<= 1;
  while (size < 2 * (most + 1)) size <<= 1;
  const std::size_t block = size - most;
  const Fourier& fourier = fourier_of(size);
  std::vector<Fourier::Number> x(size), total(size);
  for (std::size_t start = 0; start < n; start += block) {
    for (std::size_t i = 0; i < size; ++i) {
      const std::size_t at = start + i;
      x[i] = {i < block && at < n ? a[at] : 0, at < n ? b[at] : 0};
    }
    fourier.transform(x.data());
    for (std::size_t i = 0; i < size; ++i) {
      const Fourier::Number here = x[i],
                            there = std::conj(x[(size - i) % size]);
      const Fourier::Number of_a = 0.5 * (here + there),
                            of_b = Fourier::Number(0, -0.5) * (here - there);
      total[i] += std::conj(of_a) * of_b;
    }
  }
  // Back: the transform of the conjugate, conjugated.
  for (Fourier::Number& one : total) one = std::conj(one);
  fourier.transform(total.data());
  for (std::size_t k = 0; k <= most; ++k)
    out[k] = total[k].real() / static_cast<double>(size);
}

inline void lag_products(const double* a, const double* b, std::size_t n,
                         std::size_t most, double* out) {
  // Below this one by one is quicker, and exact.
  if (n * (most + 1) < 200000 || most < 8)
    lag_products_direct(a, b, n, most, out);
  else
    lag_products_fourier(a, b, n, most, out);
}

}  // namespace backfill

#endif
