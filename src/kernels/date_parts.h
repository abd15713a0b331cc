// The parts of a written date, numbers and names of months, before their order
// is known.
#ifndef BACKFILL_DATE_PARTS_H
#define BACKFILL_DATE_PARTS_H

#include <array>
#include <cstddef>
#include <cstring>

#include "iso8601.h"

namespace backfill {
namespace detail {

struct Number {
  int value;
  int digits;
};

struct DateParts {
  std::array<Number, 3> number{};
  std::size_t numbers = 0;
  int month = 0, quarter = 0, week = 0;
  bool fiscal = false;
  bool slash_span = false;  // nothing but one mark between two numbers
  const char* time = nullptr;
};

inline bool is_letter(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
}

// Whether a word of three letters at least is the start of a name; 1 for the
// first of the names, 0 for none.
inline int name_number(const char* word, std::size_t n,
                       const char* const* names, int count) {
  if (n < 3) return 0;
  for (int i = 0; i < count; ++i) {
    if (n > std::strlen(names[i])) continue;
    std::size_t k = 0;
    while (k < n && (word[k] | 0x20) == names[i][k]) ++k;
    if (k == n) return i + 1;
  }
  return 0;
}

inline bool same_word(const char* word, std::size_t n, const char* with) {
  if (n != std::strlen(with)) return false;
  for (std::size_t k = 0; k < n; ++k) {
    if ((word[k] | 0x20) != with[k]) return false;
  }
  return true;
}

inline bool read_word(const char* word, std::size_t n, bool behind_number,
                      DateParts* out, char* waits_for) {
  static const char* const months[] = {
      "january", "february", "march",     "april",   "may",      "june",
      "july",    "august",   "september", "october", "november", "december"};
  static const char* const weekdays[] = {"monday",   "tuesday", "wednesday",
                                         "thursday", "friday",  "saturday",
                                         "sunday"};
  if (const int month = name_number(word, n, months, 12)) {
    if (out->month != 0) return false;
    out->month = month;
    return true;
  }
  if (name_number(word, n, weekdays, 7) != 0 || same_word(word, n, "of"))
    return true;
  if (behind_number && (same_word(word, n, "st") || same_word(word, n, "nd") ||
                        same_word(word, n, "rd") || same_word(word, n, "th"))) {
    return true;
  }
  if (same_word(word, n, "fy")) {
    out->fiscal = true;
  } else if (same_word(word, n, "q")) {
    *waits_for = 'q';
  } else if (same_word(word, n, "w") || same_word(word, n, "week")) {
    *waits_for = 'w';
  } else {
    return false;
  }
  return true;
}

inline bool read_parts(const char* p, const char* end, DateParts* out) {
  char waits_for = 0;
  bool behind_number = false;
  const char* behind = nullptr;  // the last number
  while (p != end) {
    if (is_letter(*p)) {
      const char* word = p;
      while (p != end && is_letter(*p)) ++p;
      if (same_word(word, static_cast<std::size_t>(p - word), "t") &&
          out->numbers > 0) {
        out->time = p;
        return true;
      }
      if (!read_word(word, static_cast<std::size_t>(p - word), behind_number,
                     out, &waits_for))
        return false;
      behind_number = false;
    } else if (*p >= '0' && *p <= '9') {
      const char* start = p;
      Number number{0, 0};
      for (; p != end && *p >= '0' && *p <= '9' && number.digits < 9;
           ++p, ++number.digits) {
        number.value = number.value * 10 + (*p - '0');
      }
      // A time of day starts with a number before a colon, or before "am" or
      // "pm".
      const char* q = p;
      while (q != end && is_space(*q)) ++q;
      const bool half = end - q >= 2 &&
                        ((*q | 0x20) == 'a' || (*q | 0x20) == 'p') &&
                        (q[1] | 0x20) == 'm';
      if ((p != end && *p == ':') ||
          (half && out->numbers + (out->month != 0) > 1)) {
        out->time = start;
        return out->numbers > 0;
      }
      if (waits_for != 0) {
        if (number.digits > 2) return false;
        (waits_for == 'q' ? out->quarter : out->week) = number.value;
        if (number.value == 0) return false;
        waits_for = 0;
      } else {
        if (out->numbers == 3) return false;
        out->slash_span =
            out->numbers == 1 && behind != nullptr && start - behind == 1;
        out->number[out->numbers++] = number;
      }
      behind_number = true;
      behind = p;
    } else if (std::strchr(" \t,./-_'", *p) != nullptr) {
      behind_number = false;
      ++p;
    } else {
      return false;
    }
  }
  return waits_for == 0;
}

}  // namespace detail
}  // namespace backfill

#endif
