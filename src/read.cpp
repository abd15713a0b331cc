// Doors to what columns hold: distinct texts, finite numbers, written numbers,
// rows that repeat another.
#include <Rcpp/Lightest>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "distinct.h"
#include "repeats.h"
#include "side_by_side.h"
#include "written_number.h"

using namespace backfill;

namespace {

// Rows in stretches to be worked on side by side, where there are enough of
// them.
std::vector<std::size_t> stretches_of(R_xlen_t n) {
  const std::size_t rows = static_cast<std::size_t>(n),
                    count = rows < 200000 ? 1 : processors();
  std::vector<std::size_t> bounds;
  for (std::size_t k = 0; k <= count; ++k) bounds.push_back(rows * k / count);
  return bounds;
}

}  // namespace

// Each distinct text once, in the order of their first rows, and which of them
// each row has. R keeps one copy of a text, so that texts are compared by their
// address; NA is among them.
// [[Rcpp::export(rng = false)]]
Rcpp::List distinct_texts_cpp(Rcpp::CharacterVector text) {
  const SEXP* items = STRING_PTR_RO(text);
  Rcpp::IntegerVector at(Rcpp::no_init(text.size()));
  int* const to = at.begin();
  const std::vector<std::size_t> bounds = stretches_of(text.size());
  const std::size_t stretches = bounds.size() - 1;
  std::vector<std::vector<SEXP>> found(stretches);
  side_by_side(stretches, [&](std::size_t k) {
    Distinct distinct;
    for (std::size_t i = bounds[k]; i < bounds[k + 1]; ++i) {
      if (i > bounds[k] && items[i] == items[i - 1]) {
        to[i] = to[i - 1];
        continue;
      }
      bool fresh;
      to[i] =
          distinct.number(reinterpret_cast<std::uintptr_t>(items[i]), &fresh) +
          1;
      if (fresh) found[k].push_back(items[i]);
    }
  });
  // The numbers of a stretch are its own up to here.
  Distinct distinct;
  std::vector<SEXP> all;
  std::vector<std::vector<int>> number(stretches);
  for (std::size_t k = 0; k < stretches; ++k) {
    for (const SEXP item : found[k]) {
      bool fresh;
      number[k].push_back(
          distinct.number(reinterpret_cast<std::uintptr_t>(item), &fresh) + 1);
      if (fresh) all.push_back(item);
    }
  }
  side_by_side(stretches - 1, [&](std::size_t k) {
    const int* const own = number[k + 1].data() - 1;
    for (std::size_t i = bounds[k + 1]; i < bounds[k + 2]; ++i)
      to[i] = own[to[i]];
  });
  Rcpp::CharacterVector texts(static_cast<R_xlen_t>(all.size()));
  for (std::size_t i = 0; i < all.size(); ++i)
    SET_STRING_ELT(texts, static_cast<R_xlen_t>(i), all[i]);
  return Rcpp::List::create(Rcpp::_["text"] = texts, Rcpp::_["at"] = at);
}

// Puts for each number the one at its place in `to`, in a vector that nobody
// else may hold.
// [[Rcpp::export(rng = false)]]
void renumber_cpp(Rcpp::IntegerVector number, Rcpp::IntegerVector to) {
  const int* const place = to.begin() - 1;
  for (int& k : number) k = place[k];
}

// Makes a vector of whole days, which nobody else may hold, a Date where it
// stands, and says whether all are days of the years from 1000 on.
// [[Rcpp::export(rng = false)]]
bool turn_into_dates_cpp(Rcpp::IntegerVector day) {
  day.attr("class") = "Date";
  constexpr int year_1000 = -354285;
  return std::none_of(day.begin(), day.end(),
                      [](int d) { return d != NA_INTEGER && d < year_1000; });
}

namespace {

// Of a stretch. Four at a time, as each comparison waits for the one before;
// those that are not known in a pass of their own, where there are any.
struct Ends {
  double lowest = R_PosInf, highest = R_NegInf;
  bool known = true;
};

template <typename Number, typename Known>
Ends ends_of(const Number* at, const Number* end, Known known) {
  Ends out;
  bool all = true;
  double low[] = {R_PosInf, R_PosInf, R_PosInf, R_PosInf},
         high[] = {R_NegInf, R_NegInf, R_NegInf, R_NegInf};
  const Number* now = at;
  for (; now + 4 <= end; now += 4) {
    for (int lane = 0; lane < 4; ++lane) {
      const double one = static_cast<double>(now[lane]);
      all = all & known(now[lane]);
      low[lane] = one < low[lane] ? one : low[lane];
      high[lane] = one > high[lane] ? one : high[lane];
    }
  }
  if (!all) {
    std::fill_n(low, 4, R_PosInf);
    std::fill_n(high, 4, R_NegInf);
    now = at;
  }
  for (; now < end; ++now) {
    if (!known(*now)) {
      all = false;
      continue;
    }
    low[0] = std::min(low[0], static_cast<double>(*now));
    high[0] = std::max(high[0], static_cast<double>(*now));
  }
  return {*std::min_element(low, low + 4), *std::max_element(high, high + 4),
          all};
}

template <typename Number, typename Known>
Rcpp::List ends_of_all(const Number* x, R_xlen_t n, Known known) {
  const std::vector<std::size_t> bounds = stretches_of(n);
  std::vector<Ends> each(bounds.size() - 1);
  side_by_side(each.size(), [&](std::size_t k) {
    each[k] = ends_of(x + bounds[k], x + bounds[k + 1], known);
  });
  Ends all;
  for (const Ends& one : each) {
    all = {std::min(all.lowest, one.lowest), std::max(all.highest, one.highest),
           all.known && one.known};
  }
  const bool none = all.lowest > all.highest;
  return Rcpp::List::create(Rcpp::_["lowest"] = none ? NA_REAL : all.lowest,
                            Rcpp::_["highest"] = none ? NA_REAL : all.highest,
                            Rcpp::_["known"] = all.known);
}

}  // namespace

// The lowest and the highest of times as R holds them, and whether all are
// known; NA where there are none.
// [[Rcpp::export(rng = false)]]
Rcpp::List ends_cpp(SEXP when) {
  const R_xlen_t n = Rf_xlength(when);
  if (TYPEOF(when) == INTSXP)
    return ends_of_all(INTEGER(when), n, [](int x) { return x != NA_INTEGER; });
  return ends_of_all(REAL(when), n, [](double x) { return x - x == 0; });
}

// Whether each is a finite number, and a whole one if `whole`. Integers and
// doubles are looked at as they are.
// [[Rcpp::export(rng = false)]]
bool all_finite_cpp(SEXP x, bool whole) {
  const R_xlen_t n = Rf_xlength(x);
  if (TYPEOF(x) == INTSXP)
    return std::find(INTEGER(x), INTEGER(x) + n, NA_INTEGER) == INTEGER(x) + n;
  const double* at = REAL(x);
  for (R_xlen_t i = 0; i < n; ++i) {
    if (!std::isfinite(at[i])) return false;
    // By a cast, which costs a fraction of what trunc() does.
    if (whole &&
        (std::fabs(at[i]) > 9e15 ||
         at[i] != static_cast<double>(static_cast<std::int64_t>(at[i])))) {
      return false;
    }
  }
  return true;
}

// `outcome` is a code of enum class NumberOutcome, `marks` bits of enum
// NumberMark.
// [[Rcpp::export(rng = false)]]
Rcpp::List read_numbers_cpp(Rcpp::CharacterVector text,
                            std::string decimal_mark) {
  const R_xlen_t n = text.size();
  Rcpp::NumericVector value(n);
  Rcpp::IntegerVector outcome(n), marks(n);
  Rcpp::CharacterVector currency(n);
  for (R_xlen_t i = 0; i < n; ++i) {
    SEXP item = STRING_ELT(text, i);
    const char* chars = item == NA_STRING ? "" : CHAR(item);
    const WrittenNumber x =
        read_number(chars, std::strlen(chars), decimal_mark[0]);
    value[i] = x.outcome == NumberOutcome::read ? x.value : NA_REAL;
    outcome[i] = static_cast<int>(x.outcome);
    marks[i] = x.marks;
    if (!x.currency.empty())
      currency[i] = Rf_mkCharCE(x.currency.c_str(), CE_UTF8);
  }
  return Rcpp::List::create(
      Rcpp::_["value"] = value, Rcpp::_["outcome"] = outcome,
      Rcpp::_["marks"] = marks, Rcpp::_["currency"] = currency);
}

namespace {

template <typename When>
Repeats repeats_in(const When* when, std::size_t n, SEXP series) {
  if (TYPEOF(series) == STRSXP) {
    const SEXP* texts = STRING_PTR_RO(series);
    Distinct distinct;
    return find_repeats(when, n, [&](std::size_t i) {
      bool fresh;
      return static_cast<std::size_t>(
          distinct.number(reinterpret_cast<std::uintptr_t>(texts[i]), &fresh));
    });
  }
  if (TYPEOF(series) == INTSXP) {
    const int* numbers = INTEGER(series);
    return find_repeats(when, n, [&](std::size_t i) {
      return static_cast<std::size_t>(numbers[i] - 1);
    });
  }
  return find_repeats(when, n, [](std::size_t) { return std::size_t{0}; });
}

}  // namespace

// `when` holds doubles, or days as integers; `series` is text, numbers from 1,
// or NULL for a single series. Rows are counted from 1.
// [[Rcpp::export(rng = false)]]
Rcpp::List find_repeats_cpp(SEXP when, SEXP series) {
  const std::size_t count = static_cast<std::size_t>(Rf_xlength(when));
  const Repeats found = TYPEOF(when) == INTSXP
                            ? repeats_in(INTEGER(when), count, series)
                            : repeats_in(REAL(when), count, series);
  const R_xlen_t n = static_cast<R_xlen_t>(found.row.size());
  Rcpp::IntegerVector row(n), first(n);
  for (R_xlen_t i = 0; i < n; ++i) {
    row[i] = static_cast<int>(found.row[static_cast<std::size_t>(i)]) + 1;
    first[i] = static_cast<int>(found.first[static_cast<std::size_t>(i)]) + 1;
  }
  return Rcpp::List::create(
      Rcpp::_["out_of_order"] = static_cast<double>(found.out_of_order),
      Rcpp::_["row"] = row, Rcpp::_["first"] = first,
      Rcpp::_["lowest"] = found.lowest, Rcpp::_["highest"] = found.highest);
}
