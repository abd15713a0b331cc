# What the latest figures say.

#' @export
describe.backfill_latest <- function(x, ..., most = 6) {
  about <- facts(x)
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  over <- period_start(
    about$over, lay_calendar_over(about$calendar, x$period)
  )
  old <- x[x$age > 0, ]
  c(
    if (nrow(x) <= most) {
      vapply(seq_len(nrow(x)), function(i) {
        describe_latest_of(plain_tibble(x)[i, ], x, about)
      }, "")
    } else {
      glue(
        "The latest whole values of {count_of(nrow(x), 'series', 'series')},",
        "as of {period_label(over, about$calendar)}."
      )
    },
    if (nrow(old) > 0) not_of_now(old, x, in_period(over, about$calendar)),
    if (about$lacking > 0) {
      sprintf(
        "%s no whole value at all by then.",
        count_of(about$lacking, "series has", "series have")
      )
    }
  )
}

not_of_now <- function(old, x, now) {
  if (nrow(x) == 1 || nrow(old) < nrow(x)) {
    return(glue(
      "{count_of(nrow(old), 'series has', 'series have')} no whole value",
      "{now}: {in_words(lines_of_result(old), 4)}."
    ))
  }
  ends <- range(old$period)
  sprintf(
    "No series has a whole value %s; the latest is %s.", now,
    in_period(ends[[2]], facts(x)$calendar)
  )
}

describe_latest_of <- function(one, x, about) {
  one <- restore_facts(one, x)
  calendar <- lay_calendar_over(about$calendar, one$period)
  number <- period_number(one$period, calendar)
  moved <- function(change, percent, before) {
    if (is.na(change)) {
      return(NULL)
    }
    by <- if (is.na(percent)) {
      with_sign(format_change(change, about$unit), change)
    } else {
      format_cells(percent, "%")
    }
    sprintf("%s on %s", by, before)
  }
  changes <- c(
    moved(one$change, one$percent, if (isTRUE(about$closed)) {
      sprintf("the open %s before", period_noun(calendar))
    } else {
      period_label(period_start(number - 1, calendar), calendar)
    }),
    if (about$yearly) moved(
      one$year_change, one$year_percent, "a year before"
    )
  )
  sprintf(
    "%s: %s %s%s%s.", lines_of_result(one), in_unit(one$value, about),
    in_period(one$period, calendar),
    if (one$standing == "complete") "" else sprintf(" (%s)", one$standing),
    if (length(changes) > 0) paste(",", in_words(changes)) else ""
  )
}

#' @export
columns_left.backfill_latest <- function(x) {
  c(
    "before", "year_before", columns_alike(x),
    changes_left(x, "change", "percent"),
    if (facts(x)$yearly) {
      changes_left(x, "year_change", "year_percent")
    } else {
      c("year_change", "year_percent")
    }
  )
}

# What is the same for all, and told in the sentences.
columns_alike <- function(x) {
  c(
    if (all(x$standing == "complete")) "standing",
    if (length(unique(x$age)) == 1) "age"
  )
}

# A change beside its percentage, or the percentage where there is none.
changes_left <- function(x, change, percent) {
  if (all(is.na(x[[percent]]))) {
    percent
  } else if (!anyNA(x[[percent]][!is.na(x[[change]])])) {
    change
  }
}

#' @export
column_units.backfill_latest <- function(x) {
  unit <- facts(x)$unit
  c(
    percent = "%", year_percent = "%",
    if (!is.null(unit)) c(value = unit, change = unit, year_change = unit)
  )
}
