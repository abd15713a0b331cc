// Doors to what columns hold: distinct texts, finite numbers, written numbers, rows that repeat another.
#include <Rcpp.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "distinct.h"
#include "repeats.h"
#include "written_number.h"

using namespace backfill;

// Each distinct text once, and which of them each row has. R keeps one copy of a text, so that texts are compared by
// their address; NA is among them.
// [[Rcpp::export]]
Rcpp::List distinct_texts_cpp(Rcpp::CharacterVector text) {
  const R_xlen_t n = text.size();
  const SEXP* items = STRING_PTR_RO(text);
  Rcpp::IntegerVector at(Rcpp::no_init(n));
  int* to = at.begin();
  std::vector<SEXP> found;
  Distinct distinct;
  for (R_xlen_t i = 0; i < n; ++i) {
    if (i > 0 && items[i] == items[i - 1]) {
      to[i] = to[i - 1];
      continue;
    }
    bool fresh;
    to[i] = distinct.number(reinterpret_cast<std::uintptr_t>(items[i]), &fresh) + 1;
    if (fresh) found.push_back(items[i]);
  }
  Rcpp::CharacterVector texts(static_cast<R_xlen_t>(found.size()));
  for (std::size_t i = 0; i < found.size(); ++i) SET_STRING_ELT(texts, static_cast<R_xlen_t>(i), found[i]);
  return Rcpp::List::create(Rcpp::_["text"] = texts, Rcpp::_["at"] = at);
}

// Puts for each number the one at its place in `to`, in a vector that nobody else may hold.
// [[Rcpp::export]]
void renumber_cpp(Rcpp::IntegerVector number, Rcpp::IntegerVector to) {
  const int* const place = to.begin() - 1;
  for (int& k : number) k = place[k];
}

// Makes a vector of whole days, which nobody else may hold, a Date where it stands, and says whether all are days of
// the years from 1000 on.
// [[Rcpp::export]]
bool make_dates_cpp(Rcpp::IntegerVector day) {
  day.attr("class") = "Date";
  constexpr int year_1000 = -354285;
  return std::none_of(day.begin(), day.end(), [](int d) { return d != NA_INTEGER && d < year_1000; });
}

namespace {

// Up to the first time that is not known four at a time, as each comparison waits for the one before.
template <typename Number, typename Known>
Rcpp::List ends_of(const Number* x, R_xlen_t n, Known known) {
  const Number* const end = x + n;
  const Number* const known_end = std::find_if_not(x, end, known);
  double low[] = {R_PosInf, R_PosInf, R_PosInf, R_PosInf}, high[] = {R_NegInf, R_NegInf, R_NegInf, R_NegInf};
  const Number* at = x;
  for (; at + 4 <= known_end; at += 4) {
    for (int lane = 0; lane < 4; ++lane) {
      const double one = static_cast<double>(at[lane]);
      low[lane] = one < low[lane] ? one : low[lane];
      high[lane] = one > high[lane] ? one : high[lane];
    }
  }
  for (; at < end; ++at) {
    if (!known(*at)) continue;
    low[0] = std::min(low[0], static_cast<double>(*at));
    high[0] = std::max(high[0], static_cast<double>(*at));
  }
  const double lowest = *std::min_element(low, low + 4), highest = *std::max_element(high, high + 4);
  const bool none = lowest > highest;
  return Rcpp::List::create(Rcpp::_["lowest"] = none ? NA_REAL : lowest, Rcpp::_["highest"] = none ? NA_REAL : highest,
                            Rcpp::_["known"] = known_end == end);
}

}  // namespace

// The lowest and the highest of times as R holds them, and whether all are known; NA where there are none.
// [[Rcpp::export]]
Rcpp::List ends_cpp(SEXP when) {
  const R_xlen_t n = Rf_xlength(when);
  if (TYPEOF(when) == INTSXP) return ends_of(INTEGER(when), n, [](int x) { return x != NA_INTEGER; });
  return ends_of(REAL(when), n, [](double x) { return x - x == 0; });
}

// Whether each is a finite number, and a whole one if `whole`. Integers and doubles are looked at as they are.
// [[Rcpp::export]]
bool all_finite_cpp(SEXP x, bool whole) {
  const R_xlen_t n = Rf_xlength(x);
  if (TYPEOF(x) == INTSXP) return std::find(INTEGER(x), INTEGER(x) + n, NA_INTEGER) == INTEGER(x) + n;
  const double* at = REAL(x);
  for (R_xlen_t i = 0; i < n; ++i) {
    if (!std::isfinite(at[i])) return false;
    // By a cast, which costs a fraction of what trunc() does.
    if (whole && (std::fabs(at[i]) > 9e15 || at[i] != static_cast<double>(static_cast<std::int64_t>(at[i])))) {
      return false;
    }
  }
  return true;
}

// `outcome` is a code of enum class NumberOutcome, `marks` bits of enum NumberMark.
// [[Rcpp::export]]
Rcpp::List read_numbers_cpp(Rcpp::CharacterVector text, std::string decimal_mark) {
  const R_xlen_t n = text.size();
  Rcpp::NumericVector value(n);
  Rcpp::IntegerVector outcome(n), marks(n);
  Rcpp::CharacterVector currency(n);
  for (R_xlen_t i = 0; i < n; ++i) {
    SEXP item = STRING_ELT(text, i);
    const char* chars = item == NA_STRING ? "" : CHAR(item);
    const WrittenNumber x = read_number(chars, std::strlen(chars), decimal_mark[0]);
    value[i] = x.outcome == NumberOutcome::read ? x.value : NA_REAL;
    outcome[i] = static_cast<int>(x.outcome);
    marks[i] = x.marks;
    if (!x.currency.empty()) currency[i] = Rf_mkCharCE(x.currency.c_str(), CE_UTF8);
  }
  return Rcpp::List::create(Rcpp::_["value"] = value, Rcpp::_["outcome"] = outcome, Rcpp::_["marks"] = marks,
                            Rcpp::_["currency"] = currency);
}

namespace {

template <typename When>
Repeats repeats_in(const When* when, std::size_t n, SEXP series) {
  if (TYPEOF(series) == STRSXP) {
    const SEXP* texts = STRING_PTR_RO(series);
    Distinct distinct;
    return find_repeats(when, n, [&](std::size_t i) {
      bool fresh;
      return static_cast<std::size_t>(distinct.number(reinterpret_cast<std::uintptr_t>(texts[i]), &fresh));
    });
  }
  if (TYPEOF(series) == INTSXP) {
    const int* numbers = INTEGER(series);
    return find_repeats(when, n, [&](std::size_t i) { return static_cast<std::size_t>(numbers[i] - 1); });
  }
  return find_repeats(when, n, [](std::size_t) { return std::size_t{0}; });
}

}  // namespace

// `when` holds doubles, or days as integers; `series` is text, numbers from 1, or NULL for a single series. Rows are
// counted from 1.
// [[Rcpp::export]]
Rcpp::List find_repeats_cpp(SEXP when, SEXP series) {
  const std::size_t count = static_cast<std::size_t>(Rf_xlength(when));
  const Repeats found = TYPEOF(when) == INTSXP ? repeats_in(INTEGER(when), count, series)
                                               : repeats_in(REAL(when), count, series);
  const R_xlen_t n = static_cast<R_xlen_t>(found.row.size());
  Rcpp::IntegerVector row(n), first(n);
  for (R_xlen_t i = 0; i < n; ++i) {
    row[i] = static_cast<int>(found.row[static_cast<std::size_t>(i)]) + 1;
    first[i] = static_cast<int>(found.first[static_cast<std::size_t>(i)]) + 1;
  }
  return Rcpp::List::create(Rcpp::_["out_of_order"] = static_cast<double>(found.out_of_order), Rcpp::_["row"] = row,
                            Rcpp::_["first"] = first, Rcpp::_["lowest"] = found.lowest,
                            Rcpp::_["highest"] = found.highest);
}
