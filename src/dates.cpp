// Doors to the readers of written and counted dates, and from local clock times
// to instants.
#include <Rcpp/Lightest>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <numeric>

#include "clock.h"
#include "date_column.h"
#include "lines.h"
#include "reporter.h"
#include "written_date.h"

using namespace backfill;

// A column for each order of enum class DateOrder; `outcome` and `precision`
// are codes of the enums in iso8601.h.
// [[Rcpp::export(rng = false)]]
Rcpp::List read_dates_cpp(Rcpp::CharacterVector text, int pivot_year,
                          int year_start) {
  const int n = static_cast<int>(text.size());
  const int orders = static_cast<int>(date_orders);
  Rcpp::NumericMatrix second(n, orders);
  Rcpp::IntegerMatrix outcome(n, orders), precision(n, orders);
  Rcpp::LogicalMatrix two_digits(n, orders);
  Rcpp::LogicalVector has_offset(n), year_first(n), fiscal(n);
  for (int i = 0; i < n; ++i) {
    SEXP item = STRING_ELT(text, i);
    const char* chars = item == NA_STRING ? "" : CHAR(item);
    const WrittenDate date =
        read_written_date(chars, std::strlen(chars), {pivot_year, year_start});
    for (int k = 0; k < orders; ++k) {
      const Moment& m = date.by[static_cast<std::size_t>(k)];
      second(i, k) = m.outcome == Outcome::read ? m.second : NA_REAL;
      outcome(i, k) = static_cast<int>(m.outcome);
      precision(i, k) = static_cast<int>(m.precision);
      two_digits(i, k) = date.two_digits[static_cast<std::size_t>(k)];
      if (m.has_offset) has_offset[i] = true;
    }
    year_first[i] = date.year_first;
    fiscal[i] = date.fiscal;
  }
  return Rcpp::List::create(
      Rcpp::_["second"] = second, Rcpp::_["outcome"] = outcome,
      Rcpp::_["precision"] = precision, Rcpp::_["has_offset"] = has_offset,
      Rcpp::_["year_first"] = year_first, Rcpp::_["two_digits"] = two_digits,
      Rcpp::_["fiscal"] = fiscal);
}

namespace {

Rcpp::IntegerVector rows_of(const std::vector<int>& rows) {
  Rcpp::IntegerVector out(static_cast<R_xlen_t>(rows.size()));
  for (std::size_t i = 0; i < rows.size(); ++i)
    out[static_cast<R_xlen_t>(i)] = rows[i] + 1;
  return out;
}

Rcpp::List wrap_spans(const SpanCount& span) {
  return Rcpp::List::create(
      Rcpp::_["sure"] = static_cast<double>(span.sure),
      Rcpp::_["forward"] = static_cast<double>(span.forward),
      Rcpp::_["backward"] = static_cast<double>(span.backward),
      Rcpp::_["starts"] = static_cast<int>(span.starts.size()),
      Rcpp::_["ends"] = static_cast<int>(span.ends.size()),
      Rcpp::_["both"] = static_cast<int>(span.both.size()));
}

Rcpp::List wrap_day_ends(const DayEnds& ends) {
  return Rcpp::List::create(
      Rcpp::_["at_24"] = static_cast<double>(ends.at_24),
      Rcpp::_["at_0"] = static_cast<double>(ends.at_0),
      Rcpp::_["step"] = static_cast<double>(ends.step),
      Rcpp::_["distinct"] = static_cast<double>(
          std::count(ends.there.begin(), ends.there.end(), true)));
}

// Rows are counted from 1; a first row of 0 is none.
Rcpp::List wrap_dates(const DateColumn& column,
                      const Rcpp::NumericVector& second) {
  const int orders = static_cast<int>(date_orders);
  Rcpp::NumericVector fits(orders), decides(orders), differs(orders);
  Rcpp::LogicalVector two_digits(orders);
  std::vector<int> one, other, row;
  std::vector<double> first, then;
  Rcpp::CharacterVector texts;
  for (std::size_t i = 0; i < date_orders; ++i) {
    const OrderCount& count = column.count[i];
    fits[static_cast<R_xlen_t>(i)] = static_cast<double>(count.fits);
    decides[static_cast<R_xlen_t>(i)] = static_cast<double>(count.decides);
    differs[static_cast<R_xlen_t>(i)] = static_cast<double>(count.differs);
    two_digits[static_cast<R_xlen_t>(i)] = count.two_digits;
    for (std::size_t j = i + 1; j < date_orders; ++j) {
      for (const Doubt& doubt : column.doubt[i][j]) {
        one.push_back(static_cast<int>(i) + 1);
        other.push_back(static_cast<int>(j) + 1);
        row.push_back(static_cast<int>(doubt.row) + 1);
        first.push_back(doubt.second[0]);
        then.push_back(doubt.second[1]);
        texts.push_back(Rf_mkCharLenCE(
            doubt.text.data(), static_cast<int>(doubt.text.size()), CE_UTF8));
      }
    }
  }
  return Rcpp::List::create(
      Rcpp::_["second"] = second, Rcpp::_["bad"] = rows_of(column.bad),
      Rcpp::_["code"] = column.code, Rcpp::_["coarse"] = rows_of(column.coarse),
      Rcpp::_["fine"] = static_cast<double>(column.fine),
      Rcpp::_["timed"] = column.timed,
      Rcpp::_["with_offset"] = rows_of(column.with_offset),
      Rcpp::_["fits"] = fits, Rcpp::_["decides"] = decides,
      Rcpp::_["differs"] = differs, Rcpp::_["two_digits"] = two_digits,
      Rcpp::_["first_fiscal"] = static_cast<int>(column.first_fiscal) + 1,
      Rcpp::_["first_span"] = static_cast<int>(column.first_span) + 1,
      Rcpp::_["spans"] = wrap_spans(column.span),
      Rcpp::_["day_ends"] = wrap_day_ends(column.day_ends),
      Rcpp::_["doubts"] =
          Rcpp::List::create(Rcpp::_["one"] = one, Rcpp::_["other"] = other,
                             Rcpp::_["row"] = row, Rcpp::_["first"] = first,
                             Rcpp::_["then"] = then, Rcpp::_["text"] = texts));
}

}  // namespace

// `order` is a code of enum class DateOrder.
// [[Rcpp::export(rng = false)]]
Rcpp::List date_column_cpp(Rcpp::CharacterVector text, int pivot_year,
                           int year_start, int order, bool spans, bool at_end) {
  const R_xlen_t n = text.size();
  Rcpp::NumericVector second(Rcpp::no_init(n));
  DateColumn column(second.begin(), {pivot_year, year_start},
                    static_cast<DateOrder>(order), spans, at_end);
  const SEXP* items = STRING_PTR_RO(text);
  for (R_xlen_t i = 0; i < n; ++i) {
    if (items[i] == NA_STRING) {
      column.add(static_cast<std::size_t>(i), "", 0);
    } else {
      column.add(static_cast<std::size_t>(i), CHAR(items[i]),
                 static_cast<std::size_t>(LENGTH(items[i])));
    }
  }
  return wrap_dates(column, second);
}

// Calls back for one field, counted from 1, of each line behind the first
// `skip` of a regular file (no quotes, one record a line) of so many rows:
// `on_field(row, from, to)`. False where the file is not as it is said to be.
template <typename OnField>
bool for_each_field(const std::string& path, int skip, char delimiter,
                    int field, std::size_t rows, OnField on_field,
                    const Reporter& reporter) {
  std::size_t row = 0;
  bool whole = true;
  for_each_line(
      path,
      [&](std::size_t line, const char* at, const char* end) {
        if (line < static_cast<std::size_t>(skip)) return;
        const char* to;
        for (int i = 1;; ++i) {
          to = static_cast<const char*>(
              std::memchr(at, delimiter, static_cast<std::size_t>(end - at)));
          if (to == nullptr) to = end;
          if (i == field) break;
          if (to == end) {
            whole = false;
            return;
          }
          at = to + 1;
        }
        if (row < rows) on_field(row, at, to);
        ++row;
      },
      [&](std::size_t bytes) { reporter.through(bytes); });
  return whole && row == rows;
}

// The same as date_column_cpp() of one field of each line, without a text of
// each in R.
// [[Rcpp::export(rng = false)]]
Rcpp::List date_field_cpp(std::string path, int skip, std::string delimiter,
                          int field, double rows, int pivot_year,
                          int year_start, int order, bool spans, bool at_end,
                          Rcpp::Nullable<Rcpp::Function> report) {
  Rcpp::NumericVector second(Rcpp::no_init(static_cast<R_xlen_t>(rows)));
  DateColumn column(second.begin(), {pivot_year, year_start},
                    static_cast<DateOrder>(order), spans, at_end);
  const bool whole = for_each_field(
      path, skip, delimiter[0], field, static_cast<std::size_t>(rows),
      [&](std::size_t row, const char* from, const char* to) {
        column.add(row, from, static_cast<std::size_t>(to - from));
      },
      Reporter(report, size_of(path)));
  Rcpp::List out = wrap_dates(column, second);
  out["whole"] = whole;
  return out;
}

// The texts of such a field in some rows, counted from 1 and in any order.
// [[Rcpp::export(rng = false)]]
Rcpp::CharacterVector field_texts_cpp(std::string path, int skip,
                                      std::string delimiter, int field,
                                      double rows, Rcpp::IntegerVector wanted) {
  std::vector<std::size_t> by_row(static_cast<std::size_t>(wanted.size()));
  std::iota(by_row.begin(), by_row.end(), std::size_t{0});
  std::sort(by_row.begin(), by_row.end(), [&](std::size_t a, std::size_t b) {
    return wanted[a] < wanted[b];
  });
  Rcpp::CharacterVector out(wanted.size());
  auto next = by_row.begin();
  for_each_field(
      path, skip, delimiter[0], field, static_cast<std::size_t>(rows),
      [&](std::size_t row, const char* from, const char* to) {
        while (next != by_row.end() &&
               static_cast<std::size_t>(wanted[static_cast<R_xlen_t>(*next)]) ==
                   row + 1) {
          SET_STRING_ELT(
              out, static_cast<R_xlen_t>(*next++),
              Rf_mkCharLenCE(from, static_cast<int>(to - from), CE_UTF8));
        }
      },
      Reporter());
  return out;
}

// Turns seconds into days, in place: the vector must be one that nobody else
// holds.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector turn_into_days_cpp(Rcpp::NumericVector second) {
  for (double& value : second) value /= 86400.0;
  second.attr("class") = "Date";
  return second;
}

// Marks seconds as instants, shown in a zone, in place.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector turn_into_instants_cpp(Rcpp::NumericVector second,
                                           std::string zone) {
  second.attr("class") = Rcpp::CharacterVector::create("POSIXct", "POSIXt");
  second.attr("tzone") = zone;
  return second;
}

// Turns the seconds that a clock shows into instants, in place but for the rows
// `with_offset`, which are instants already. `never` names the rows whose time
// the clock never showed, `twice` those it showed twice, with the second
// instant in `again`.
// [[Rcpp::export(rng = false)]]
Rcpp::List turn_into_instants_by_clock_cpp(Rcpp::NumericVector second,
                                           Rcpp::IntegerVector with_offset,
                                           Rcpp::NumericVector from,
                                           Rcpp::NumericVector offset) {
  LocalClock clock(from.begin(), offset.begin(),
                   static_cast<std::size_t>(from.size()));
  std::vector<int> never, twice;
  std::vector<double> again_of;
  const int* skip = with_offset.begin();
  const int* skip_end = with_offset.end();
  for (R_xlen_t i = 0; i < second.size(); ++i) {
    if (skip != skip_end && *skip - 1 == i) {
      ++skip;
      continue;
    }
    if (std::isnan(second[i])) continue;
    double again = 0;
    const auto shown = clock.instant(second[i], &second[i], &again);
    if (shown == LocalClock::Shown::never) {
      never.push_back(static_cast<int>(i));
      second[i] = NA_REAL;
    } else if (shown == LocalClock::Shown::twice) {
      twice.push_back(static_cast<int>(i));
      again_of.push_back(again);
    }
  }
  return Rcpp::List::create(
      Rcpp::_["instant"] = second, Rcpp::_["never"] = rows_of(never),
      Rcpp::_["twice"] = rows_of(twice), Rcpp::_["again"] = again_of);
}

// Counts of a unit since an origin (in seconds since 1970) as seconds, to a
// millisecond; NaN with `bad` where the count is outside of what is taken for
// one, `blank` where there is none.
// [[Rcpp::export(rng = false)]]
Rcpp::List counted_dates_cpp(Rcpp::NumericVector count, double unit,
                             double origin, double from, double to) {
  const R_xlen_t n = count.size();
  Rcpp::NumericVector second(Rcpp::no_init(n));
  std::vector<int> bad, code;
  bool timed = false;
  for (R_xlen_t i = 0; i < n; ++i) {
    const double x = count[i];
    const double at = std::round((x * unit + origin) * 1000.0) / 1000.0;
    // Years 1 to 9999.
    if (x >= from && x < to && at >= -62135596800.0 && at < 253402300800.0) {
      second[i] = at;
      timed = timed || std::fmod(at, 86400.0) != 0;
    } else {
      second[i] = NA_REAL;
      bad.push_back(static_cast<int>(i));
      code.push_back(static_cast<int>(std::isnan(x) ? Outcome::blank
                                                    : Outcome::not_a_date));
    }
  }
  return Rcpp::List::create(Rcpp::_["second"] = second,
                            Rcpp::_["bad"] = rows_of(bad),
                            Rcpp::_["code"] = code, Rcpp::_["timed"] = timed);
}
