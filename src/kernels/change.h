// The change from a base to a figure, or the reason why none is given.
#ifndef BACKFILL_CHANGE_H
#define BACKFILL_CHANGE_H

#include <cmath>
#include <limits>

namespace backfill {

enum class Form { percent = 0, ratio = 1, difference = 2, log = 3 };

enum class Given {
  given = 0,
  no_base = 1,
  not_whole = 2,
  base_not_positive = 3,
  not_positive = 4
};

// NaN is no figure. A percentage, a ratio or a logarithm of a base that is not
// above zero means nothing.
inline Given change(double figure, double base, Form form, double* out) {
  *out = std::numeric_limits<double>::quiet_NaN();
  if (std::isnan(figure) || std::isnan(base)) return Given::not_whole;
  if (form == Form::difference) {
    *out = figure - base;
    return Given::given;
  }
  if (!(base > 0)) return Given::base_not_positive;
  if (form == Form::log && !(figure > 0)) return Given::not_positive;
  *out = form == Form::percent ? 100 * (figure - base) / base
         : form == Form::ratio ? figure / base
                               : std::log(figure / base);
  return Given::given;
}

}  // namespace backfill

#endif
