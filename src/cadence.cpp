// Doors to the cadences: what the times of each series have in common, and the
// slots they fill.
#include "cadences.h"
#include "parts.h"
#include "survey.h"

using namespace backfill;

namespace {

// With the ends by the clock: `anchor`, the local second of the first record,
// and the local days (since 1970) and months (since January 1970) of both.
Rcpp::DataFrame surveys_as_frame(const std::vector<Survey>& surveys,
                                 Clock clock) {
  const R_xlen_t n = static_cast<R_xlen_t>(surveys.size());
  Rcpp::NumericVector records(n), lowest(n), highest(n), step(n), passed(n),
      months(n), anchor(n, NA_REAL), first_day(n, NA_REAL),
      last_day(n, NA_REAL), first_month(n, NA_REAL), last_month(n, NA_REAL);
  Rcpp::LogicalVector whole_seconds(n), month_starts(n), month_ends(n),
      in_order(n);
  for (R_xlen_t i = 0; i < n; ++i) {
    const Survey& s = surveys[static_cast<std::size_t>(i)];
    records[i] = static_cast<double>(s.records);
    lowest[i] = s.lowest;
    highest[i] = s.highest;
    step[i] = static_cast<double>(s.step);
    passed[i] = static_cast<double>(s.passed);
    months[i] = static_cast<double>(s.months);
    whole_seconds[i] = s.whole_seconds;
    month_starts[i] = s.month_starts;
    month_ends[i] = s.month_ends;
    in_order[i] = s.in_order;
    if (s.records == 0) continue;
    anchor[i] = clock.local_second(s.lowest);
    const std::int64_t first = day_of(anchor[i]),
                       last = day_of(clock.local_second(s.highest));
    first_day[i] = static_cast<double>(first);
    last_day[i] = static_cast<double>(last);
    first_month[i] = static_cast<double>(month_of(first));
    last_month[i] = static_cast<double>(month_of(last));
  }
  return Rcpp::DataFrame::create(
      Rcpp::_["records"] = records, Rcpp::_["lowest"] = lowest,
      Rcpp::_["highest"] = highest, Rcpp::_["step"] = step,
      Rcpp::_["passed"] = passed, Rcpp::_["whole_seconds"] = whole_seconds,
      Rcpp::_["month_starts"] = month_starts,
      Rcpp::_["month_ends"] = month_ends, Rcpp::_["months"] = months,
      Rcpp::_["in_order"] = in_order, Rcpp::_["anchor"] = anchor,
      Rcpp::_["first_day"] = first_day, Rcpp::_["last_day"] = last_day,
      Rcpp::_["first_month"] = first_month, Rcpp::_["last_month"] = last_month);
}

}  // namespace

// `parts` as in parts.h. `each` has a row for each series, `all` one for the
// records of all.
// [[Rcpp::export(rng = false)]]
Rcpp::List survey_cpp(Rcpp::List parts, double scale,
                      Rcpp::NumericVector zone_from,
                      Rcpp::NumericVector zone_offset, int series_count) {
  std::vector<Survey> each(static_cast<std::size_t>(series_count)), all(1);
  const Clock clock = clock_of(zone_from, zone_offset);
  each_part(parts, scale,
            [&](const Times& times, const int* series, const double*) {
              survey(times, clock, series, each);
            });
  for (const Survey& s : each) all[0].add(s);
  return Rcpp::List::create(Rcpp::_["each"] = surveys_as_frame(each, clock),
                            Rcpp::_["all"] = surveys_as_frame(all, clock));
}

// A row for each series, a column for each weekday, Monday first.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix filled_slots_cpp(Rcpp::List parts, double scale,
                                     Rcpp::NumericVector zone_from,
                                     Rcpp::NumericVector zone_offset,
                                     Rcpp::List cadences,
                                     Rcpp::DataFrame surveys) {
  FilledSlots slots(slotted_of(cadences, surveys["lowest"], surveys["highest"],
                               surveys["in_order"]),
                    clock_of(zone_from, zone_offset), records_of(surveys));
  each_part(parts, scale,
            [&](const Times& times, const int* series, const double*) {
              slots.add(times, series);
            });
  const auto& filled = slots.filled();
  Rcpp::NumericMatrix out(static_cast<int>(filled.size()), 7);
  for (int i = 0; i < out.nrow(); ++i) {
    for (int day = 0; day < 7; ++day) {
      out(i, day) = static_cast<double>(
          filled[static_cast<std::size_t>(i)][static_cast<std::size_t>(day)]);
    }
  }
  return out;
}

// How many slots start from each moment to before the next, moments as local
// seconds and as instants: a row for each moment but the last, a column for
// each cadence; NA where it is irregular.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix expected_slots_cpp(Rcpp::NumericVector local,
                                       Rcpp::NumericVector instant,
                                       Rcpp::List cadences) {
  const std::vector<Cadence> cadence = cadences_of(cadences);
  Rcpp::NumericMatrix out(static_cast<int>(local.size()) - 1,
                          static_cast<int>(cadence.size()));
  for (int j = 0; j < out.ncol(); ++j) {
    const Cadence& c = cadence[static_cast<std::size_t>(j)];
    for (int i = 0; i < out.nrow(); ++i) {
      out(i, j) = c.steps == Steps::none
                      ? NA_REAL
                      : static_cast<double>(c.expected(
                            c.next_slot(instant[i], local[i]),
                            c.next_slot(instant[i + 1], local[i + 1])));
    }
  }
  return out;
}
