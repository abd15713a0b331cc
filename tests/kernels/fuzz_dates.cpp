// Any bytes as a date, in every order: read to a moment of the years 1 to 9999,
// or given a reason. A column reads it as the reader of single texts does, the
// second time (from what it kept) as the first.
#include <cmath>

#include "date_column.h"
#include "fuzz.h"

using namespace backfill;

namespace {

const double year_1 = -62135596800.0, year_10000 = 253402300800.0, day = 86400;

bool same(double a, double b) {
  return a == b || (std::isnan(a) && std::isnan(b));
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data,
                                      std::size_t size) {
  if (size < 2) return 0;
  const char* text = reinterpret_cast<const char*>(data) + 2;
  const std::size_t n = size - 2;
  const DateRules rules{1900 + data[0] % 200, 1 + data[1] % 12};
  const WrittenDate date = read_written_date(text, n, rules);
  for (const Moment& moment : date.by) {
    if (moment.outcome != Outcome::read) continue;
    must(moment.second >= year_1 - day && moment.second <= year_10000 + day,
         "the moment is of a year with four digits");
  }
  if (data[0] % 64 != 0) return 0;  // a column takes long to make
  const std::size_t k = data[1] / 12 % date_orders;
  double second[2];
  DateColumn column(second, rules, static_cast<DateOrder>(k), data[0] != 0,
                    (data[0] & 128) != 0);
  column.add(0, text, n);
  column.add(1, text, n);
  must(same(second[0], second[1]), "a text that was kept means what it meant");
  must(column.bad.size() == (date.by[k].outcome == Outcome::read ? 0u : 2u),
       "the column reads what the reader reads");
  return 0;
}
