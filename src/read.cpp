// Door to the reader of ISO 8601 text.
#include <Rcpp.h>

#include <cstring>

#include "iso8601.h"

using namespace backfill;

// Texts repeat (one date, many rows): R keeps one copy of each text, so a row with the text of the row before costs a
// comparison of addresses. `outcome` and `precision` are codes of the enums in iso8601.h.
// [[Rcpp::export]]
Rcpp::List read_moments_cpp(Rcpp::CharacterVector text) {
  const R_xlen_t n = text.size();
  Rcpp::NumericVector second(n, NA_REAL);
  Rcpp::IntegerVector outcome(n), precision(n);
  Rcpp::LogicalVector has_offset(n);
  SEXP last = nullptr;
  Moment moment = {};
  for (R_xlen_t i = 0; i < n; ++i) {
    SEXP item = STRING_ELT(text, i);
    if (item != last) {
      moment = item == NA_STRING ? read_moment("", 0) : read_moment(CHAR(item), std::strlen(CHAR(item)));
      last = item;
    }
    outcome[i] = static_cast<int>(moment.outcome);
    precision[i] = static_cast<int>(moment.precision);
    has_offset[i] = moment.has_offset;
    if (moment.outcome == Outcome::read) second[i] = moment.second;
  }
  return Rcpp::List::create(Rcpp::_["second"] = second, Rcpp::_["outcome"] = outcome,
                            Rcpp::_["precision"] = precision, Rcpp::_["has_offset"] = has_offset);
}
