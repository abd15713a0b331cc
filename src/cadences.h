// How the doors take cadences: the columns `steps`, `length`, `anchor`, `unit` and `weekdays`, a row for each series.
#ifndef BACKFILL_CADENCES_H
#define BACKFILL_CADENCES_H

#include <Rcpp.h>

#include <vector>

#include "slots.h"

namespace backfill {

inline std::vector<Cadence> cadences_of(const Rcpp::List& x) {
  const Rcpp::IntegerVector steps = x["steps"], unit = x["unit"], weekdays = x["weekdays"];
  const Rcpp::NumericVector length = x["length"], anchor = x["anchor"];
  std::vector<Cadence> out(static_cast<std::size_t>(steps.size()));
  for (R_xlen_t i = 0; i < steps.size(); ++i) {
    out[static_cast<std::size_t>(i)] = {static_cast<Steps>(steps[i]), length[i], anchor[i],
                                        static_cast<Unit>(unit[i]), weekdays[i]};
  }
  return out;
}

// With the first and last instant of each series.
inline std::vector<Slotted> slotted_of(const Rcpp::List& x, const Rcpp::NumericVector& lowest,
                                       const Rcpp::NumericVector& highest) {
  std::vector<Slotted> out;
  for (const Cadence& cadence : cadences_of(x)) {
    const R_xlen_t i = static_cast<R_xlen_t>(out.size());
    out.push_back({cadence, lowest[i], highest[i]});
  }
  return out;
}

}  // namespace backfill

#endif
