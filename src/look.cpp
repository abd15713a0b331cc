// Doors to what looks odd in records. `row` puts the rows in order of series and time; both count from 1.
#include "look.h"

#include "times.h"

using namespace backfill;

namespace {

SortedRows rows_in_order(const Rcpp::IntegerVector& row, const Rcpp::IntegerVector& series) {
  return {row.begin(), series.begin(), static_cast<std::size_t>(row.size())};
}

}  // namespace

// Places in the order, from 1.
// [[Rcpp::export]]
Rcpp::NumericVector far_neighbours_cpp(Rcpp::NumericVector when, double scale, Rcpp::NumericVector zone_from,
                                       Rcpp::NumericVector zone_offset, Rcpp::IntegerVector row,
                                       Rcpp::IntegerVector series, double seconds) {
  const auto found = far_neighbours(times_of(when, scale), clock_of(zone_from, zone_offset),
                                    rows_in_order(row, series), seconds);
  Rcpp::NumericVector out(found.begin(), found.end());
  return out + 1.0;
}

// [[Rcpp::export]]
Rcpp::List look_at_values_cpp(Rcpp::NumericVector value, Rcpp::IntegerVector row, Rcpp::IntegerVector series,
                              Rcpp::NumericVector code) {
  std::vector<CodeLook> codes;
  for (double x : code) {
    CodeLook look;
    look.code = x;
    codes.push_back(look);
  }
  const ValueLook found = look_at_values(value.begin(), rows_in_order(row, series), &codes);
  Rcpp::NumericVector count(code.size()), lowest(code.size()), highest(code.size());
  for (std::size_t i = 0; i < codes.size(); ++i) {
    count[static_cast<R_xlen_t>(i)] = static_cast<double>(codes[i].count);
    lowest[static_cast<R_xlen_t>(i)] = codes[i].lowest;
    highest[static_cast<R_xlen_t>(i)] = codes[i].highest;
  }
  return Rcpp::List::create(
      Rcpp::_["values"] = static_cast<double>(found.values), Rcpp::_["negatives"] = static_cast<double>(found.negatives),
      Rcpp::_["falls"] = static_cast<double>(found.falls), Rcpp::_["zero_series"] = found.zero_series,
      Rcpp::_["longest"] = static_cast<double>(found.longest), Rcpp::_["longest_value"] = found.longest_value,
      Rcpp::_["mean_run"] = found.runs == 0 ? 0.0 : static_cast<double>(found.in_runs) / static_cast<double>(found.runs),
      Rcpp::_["codes"] = Rcpp::DataFrame::create(Rcpp::_["code"] = code, Rcpp::_["count"] = count,
                                                 Rcpp::_["lowest"] = lowest, Rcpp::_["highest"] = highest));
}
