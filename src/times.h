// How the doors take times: `when` is in days (scale 86400; integers or
// doubles) or seconds (scale 1) since 1970-01-01 UTC; `zone_from` and
// `zone_offset` are the zone's table of offsets.
#ifndef BACKFILL_TIMES_H
#define BACKFILL_TIMES_H

#include <Rcpp/Lightest>

#include "clock.h"

namespace backfill {

inline Times times_of(SEXP when, double scale) {
  const bool whole = TYPEOF(when) == INTSXP;
  return {whole ? nullptr : REAL(when), whole ? INTEGER(when) : nullptr,
          static_cast<std::size_t>(Rf_xlength(when)), scale};
}

inline Clock clock_of(const Rcpp::NumericVector& from,
                      const Rcpp::NumericVector& offset) {
  return Clock(from.begin(), offset.begin(),
               static_cast<std::size_t>(from.size()));
}

}  // namespace backfill

#endif
