// How the doors take cadences: the columns `steps`, `length`, `anchor`,
// `weekdays` and `offset`, a row for each series.
#ifndef BACKFILL_CADENCES_H
#define BACKFILL_CADENCES_H

#include <Rcpp/Lightest>

#include <numeric>
#include <vector>

#include "slots.h"

namespace backfill {

inline std::vector<Cadence> cadences_of(const Rcpp::List& x) {
  const Rcpp::IntegerVector steps = x["steps"], weekdays = x["weekdays"];
  const Rcpp::NumericVector length = x["length"], anchor = x["anchor"],
                            offset = x["offset"];
  std::vector<Cadence> out(static_cast<std::size_t>(steps.size()));
  for (R_xlen_t i = 0; i < steps.size(); ++i) {
    Cadence& cadence = out[static_cast<std::size_t>(i)];
    cadence.steps = static_cast<Steps>(steps[i]);
    cadence.length = length[i];
    cadence.anchor = anchor[i];
    cadence.weekdays = weekdays[i];
    cadence.offset = offset[i];
  }
  return out;
}

// With the first and last instant of each series, and whether its records are
// in order of time.
inline std::vector<Slotted> slotted_of(const Rcpp::List& x,
                                       const Rcpp::NumericVector& lowest,
                                       const Rcpp::NumericVector& highest,
                                       const Rcpp::LogicalVector& in_order) {
  std::vector<Slotted> out;
  for (const Cadence& cadence : cadences_of(x)) {
    const R_xlen_t i = static_cast<R_xlen_t>(out.size());
    out.push_back({cadence, lowest[i], highest[i], in_order[i] == TRUE});
  }
  return out;
}

// How many records there are in all of the surveys.
inline std::size_t records_of(const Rcpp::DataFrame& surveys) {
  const Rcpp::NumericVector records = surveys["records"];
  return static_cast<std::size_t>(
      std::accumulate(records.begin(), records.end(), 0.0));
}

}  // namespace backfill

#endif
