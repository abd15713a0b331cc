// Fields of a CSV file as bytes (RFC 4180): dates by ISO 8601, numbers by the
// shortest decimal, text in quotation marks where it needs them.
#pragma once

#include <cmath>
#include <cstdint>
#include <string>
#include <string_view>

#include "civil.h"
#include "shortest.h"

namespace backfill {

// A missing value is blank, so that text of no characters has its marks.
inline void put_csv_text(std::string_view text, std::string& out) {
  const bool bare =
      !text.empty() && text.find_first_of(",\"\r\n") == std::string_view::npos;
  if (bare) {
    out.assign(text);
    return;
  }
  out.assign(1, '"');
  for (const char each : text) {
    if (each == '"') out += '"';
    out += each;
  }
  out += '"';
}

// What is missing is the caller's.
inline void put_csv_number(double value, std::string& out) {
  if (std::isinf(value)) {
    out = value > 0 ? "Inf" : "-Inf";
    return;
  }
  char text[kLongestDecimal];
  out.assign(text, write_shortest(value, text));
}

// Days since 1970-01-01, of the years 1 to 9999.
inline void put_csv_day(std::int64_t days, std::string& out) {
  const Civil day = civil_from_days(days);
  const auto digits = [&out](int value, int place) {
    for (; place > 0; place /= 10) {
      out += static_cast<char>('0' + value / place % 10);
    }
  };
  out.clear();
  digits(day.year, 1000);
  out += '-';
  digits(day.month, 10);
  out += '-';
  digits(day.day, 10);
}

}  // namespace backfill
