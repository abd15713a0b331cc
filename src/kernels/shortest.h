// The shortest decimal that reads back as the same double, laid out as C's %g
// does with 15 digits, or as many more as it takes.
#pragma once

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>

namespace backfill {

// As many characters as the longest such decimal has, and one for the end.
constexpr std::size_t kLongestDecimal = 32;

// Its digits and where its point is: 0.digits x 10^point.
struct Decimal {
  char digits[20];
  int count;
  int point;
};

inline Decimal shortest_digits(double magnitude) {
  char text[kLongestDecimal];
#if defined(__cpp_lib_to_chars)
  char* end = std::to_chars(text, text + sizeof text, magnitude,
                            std::chars_format::scientific)
                  .ptr;
#else
  char* end = text;
  for (int more = 14; more <= 16; ++more) {
    end = text + std::snprintf(text, sizeof text, "%.*e", more, magnitude);
    if (std::strtod(text, nullptr) == magnitude) break;
  }
#endif
  // d.ddde+xx, or de+xx.
  *end = '\0';
  Decimal out;
  out.digits[0] = text[0];
  out.count = 1;
  const char* at = text[1] == '.' ? text + 2 : text + 1;
  while (*at != 'e') out.digits[out.count++] = *at++;
  while (out.count > 1 && out.digits[out.count - 1] == '0') --out.count;
  int power = 0;
  for (const char* digit = at + 2; *digit != '\0'; ++digit) {
    power = 10 * power + (*digit - '0');
  }
  out.point = (at[1] == '-' ? -power : power) + 1;
  return out;
}

// Written from `at` on; gives the place after its end. Finite values only.
inline char* write_shortest(double value, char* at) {
  if (std::signbit(value)) *at++ = '-';
  const Decimal made = shortest_digits(std::fabs(value));
  const auto put = [&at, &made](int from, int to) {
    at = std::copy(made.digits + from, made.digits + to, at);
  };
  if (made.point > std::max(15, made.count) || made.point < -3) {
    put(0, 1);
    if (made.count > 1) *at++ = '.';
    put(1, made.count);
    return at + std::snprintf(at, 8, "e%+03d", made.point - 1);
  }
  if (made.point <= 0) {
    at = std::copy_n("0.", 2, at);
    at = std::fill_n(at, -made.point, '0');
    put(0, made.count);
    return at;
  }
  const int whole = std::min(made.point, made.count);
  put(0, whole);
  at = std::fill_n(at, made.point - whole, '0');
  if (made.count > whole) *at++ = '.';
  put(whole, made.count);
  return at;
}

}  // namespace backfill
