// How the doors take records: in parts, each a list of `when`, `series`
// (counted from 1) and, where it is needed, `value`, or a function that gives
// such a list, so that no more than one part need be in memory.
#ifndef BACKFILL_PARTS_H
#define BACKFILL_PARTS_H

#include <Rcpp/Lightest>

#include "times.h"

namespace backfill {

// Calls `use` with the times, series and values (null where there are none) of
// each part.
template <typename Use>
void each_part(const Rcpp::List& parts, double scale, Use use) {
  for (R_xlen_t i = 0; i < parts.size(); ++i) {
    SEXP given = parts[i];
    const Rcpp::List part = Rf_isFunction(given)
                                ? Rcpp::List(Rcpp::Function(given)())
                                : Rcpp::List(given);
    const SEXP when = part["when"];
    const Rcpp::IntegerVector series = part["series"];
    if (part.containsElementNamed("value")) {
      const Rcpp::NumericVector value = part["value"];
      use(times_of(when, scale), series.begin(), value.begin());
    } else {
      use(times_of(when, scale), series.begin(),
          static_cast<const double*>(nullptr));
    }
  }
}

}  // namespace backfill

#endif
