// The door to counters.
#include "counter.h"

#include "cadences.h"
#include "times.h"

using namespace backfill;

namespace {

// Rows counted from 1.
template <class Pair>
Rcpp::DataFrame rows_of(const std::vector<Pair>& pairs) {
  Rcpp::IntegerVector before(static_cast<R_xlen_t>(pairs.size())),
      after(static_cast<R_xlen_t>(pairs.size()));
  for (std::size_t i = 0; i < pairs.size(); ++i) {
    before[static_cast<R_xlen_t>(i)] = static_cast<int>(pairs[i].before) + 1;
    after[static_cast<R_xlen_t>(i)] = static_cast<int>(pairs[i].after) + 1;
  }
  return Rcpp::DataFrame::create(Rcpp::_["before"] = before,
                                 Rcpp::_["after"] = after);
}

}  // namespace

// `order` has the rows in order of time within each series, or none where they
// are so already; `falls` and `resets` are numbers of Fall. `rise` is what each
// reading rose by, NA where that is not known; `falls` and `spans` are pairs of
// rows, and `taken` what each fall was taken as; `shares` the `row`, `instant`
// and `amount` of what is put into slots without a reading.
// [[Rcpp::export(rng = false)]]
Rcpp::List find_rises_cpp(SEXP when, double scale,
                          Rcpp::NumericVector zone_from,
                          Rcpp::NumericVector zone_offset,
                          Rcpp::IntegerVector series,
                          Rcpp::NumericVector reading,
                          Rcpp::IntegerVector order, Rcpp::List cadences,
                          bool spread, int falls, int resets, double rollover) {
  const Rises found = find_rises(
      times_of(when, scale), clock_of(zone_from, zone_offset),
      LocalClock(zone_from.begin(), zone_offset.begin(),
                 static_cast<std::size_t>(zone_from.size())),
      series.begin(), reading.begin(),
      order.size() == 0 ? nullptr : order.begin(), cadences_of(cadences),
      Counting{spread, static_cast<Fall>(falls), static_cast<Fall>(resets),
               rollover});
  Rcpp::NumericVector rise(found.rise.begin(), found.rise.end());
  for (double& x : rise) {
    if (std::isnan(x)) x = NA_REAL;
  }
  Rcpp::IntegerVector taken(static_cast<R_xlen_t>(found.falls.size()));
  for (std::size_t i = 0; i < found.falls.size(); ++i)
    taken[static_cast<R_xlen_t>(i)] = static_cast<int>(found.falls[i].taken);
  const R_xlen_t n = static_cast<R_xlen_t>(found.shares.size());
  Rcpp::IntegerVector row(n);
  Rcpp::NumericVector instant(n), amount(n);
  for (R_xlen_t i = 0; i < n; ++i) {
    const Share& share = found.shares[static_cast<std::size_t>(i)];
    row[i] = static_cast<int>(share.row) + 1;
    instant[i] = share.instant;
    amount[i] = share.amount;
  }
  return Rcpp::List::create(
      Rcpp::_["rise"] = rise, Rcpp::_["falls"] = rows_of(found.falls),
      Rcpp::_["taken"] = taken, Rcpp::_["spans"] = rows_of(found.spans),
      Rcpp::_["shares"] = Rcpp::DataFrame::create(Rcpp::_["row"] = row,
                                                  Rcpp::_["instant"] = instant,
                                                  Rcpp::_["amount"] = amount));
}
