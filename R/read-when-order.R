# Written dates: a text such as 3/4/2031 can be meant in several orders. Which
# one is found from the whole column, and where two fit every row and give
# different dates, that is an error, for no row can decide it.

# In the order of enum class DateOrder in src/kernels/written_date.h.
date_orders <- c(
  ymd = "year, month, day", dmy = "day, month, year", mdy = "month, day, year",
  fiscal = "fiscal years that span two, such as 2030/31"
)

# list(second, bad, code, coarse, fine, timed, with_offset, note), as
# date_column_cpp() gives them. The column is read in the declared order, or as
# if the year came first; where that is not the order that fits most rows, once
# more.
read_written <- function(x, rules, at) {
  note <- NULL
  if (inherits(x, "backfill_field")) {
    read_in <- x$read
  } else {
    text <- if (is.numeric(x)) months_as_text(x) else as.character(x)
    text <- in_one_order(text, rules, at)
    note <- attr(text, "note")
    read_in <- function(pivot_year, year_start, order, spans, at_end) {
      date_column_cpp(text, pivot_year, year_start, order, spans, at_end)
    }
  }
  read <- function(order, spans = FALSE) {
    read_in(
      rules$pivot_year, rules$year_start %||% 1L, order - 1L, spans,
      identical(rules$spans, "end")
    )
  }
  if (!is.null(rules$date_order)) {
    order <- match(rules$date_order, names(date_orders))
    parsed <- read(order)
  } else {
    parsed <- read(1L)
    order <- find_order(parsed, at)
    if (order > 1L) {
      parsed <- read(order)
    }
    check_one_order(parsed, order, at)
  }
  spans <- are_spans(parsed$spans)
  if (
    spans && parsed$spans$sure < parsed$spans$forward + parsed$spans$backward
  ) {
    parsed <- read(order, spans = TRUE)
  }
  check_year_start(parsed, order, rules, at)
  if (spans) {
    of_spans <- sprintf(
      "Spans of time, such as 06:00-07:00, are read as their %s.",
      rules$spans %||% "start"
    )
  }
  parsed$note <- c(
    note %||% order_note(parsed, order, rules), if (spans) of_spans
  )
  end_hours(parsed, rules)
}

# Figures as text. A year with its month behind the point, such as 2031.10, has
# lost its nought as a number: it is October where January stands as 2031.01.
months_as_text <- function(x) {
  text <- exact_figures(x)
  year <- is.finite(x) & x > 1500 & x < 2500
  cut <- which(year & grepl("^[0-9]{4}[.]1$", text))
  if (length(cut) == 0) {
    return(text)
  }
  if (!any(grepl("^[0-9]{4}[.]0[1-9]$", text[year]))) {
    abort_backfill(
      "when",
      "The figure {text[[cut[[1]]]]} may be January or October",
      "({text[[cut[[1]]]]}0): a number ends in no 0.",
      ">" = "Give the dates as text, such as \"2031-10\", or set `date_unit`",
      "to \"year\" where they are decimal years."
    )
  }
  text[cut] <- paste0(text[cut], "0")
  text
}

# Whether texts such as 06:00-07:00 are spans of time; if not, they are times
# with an offset from UTC. A column of times has one offset, or two with
# daylight saving, whatever the time; spans end after they start, each at its
# own time.
are_spans <- function(spans) {
  spans$sure > 0 || spans$forward > 0 && spans$backward == 0 &&
    spans$both == spans$starts &&
    (spans$ends > 2 || spans$starts <= spans$ends)
}

# Times that run from 01:00 to 24:00 and never stand at 00:00 are mostly the
# ends of their hours, as in the books of those who meter; but 24:00 by ISO 8601
# is the next midnight. Only the user can say.
end_hours <- function(parsed, rules) {
  ends <- parsed$day_ends
  step <- ends$step
  by_steps <- step >= 300 && 86400 %% step == 0
  if (is.null(rules$hour_ending)) {
    if (by_steps && runs_to_24(ends)) stop_hours(step)
    return(parsed)
  }
  if (!rules$hour_ending) {
    parsed$note <- c(parsed$note, if (ends$at_24 > 0) {
      "The time 24:00 is read as the next midnight, as declared."
    })
    return(parsed)
  }
  if (!parsed$timed || !by_steps) {
    abort_backfill(
      "hour_ending",
      "`hour_ending` is TRUE, but the times do not come at regular steps of a",
      "day."
    )
  }
  parsed$second <- parsed$second - step
  parsed$note <- c(parsed$note, glue(
    "Times are read as the ends of what they stand for, as declared:",
    "{clock_text(step)} is {clock_text(0)} to {clock_text(step)}."
  ))
  parsed
}

# A few times alone say nothing.
runs_to_24 <- function(ends) {
  ends$at_24 > 0 && ends$at_0 == 0 &&
    ends$distinct >= max(3, 86400 / ends$step / 2)
}

clock_text <- function(second) {
  sprintf("%02d:%02d", second %/% 3600, second %/% 60 %% 60)
}

stop_hours <- function(step) {
  hours <- if (step == 3600) ": hours are counted from 1 to 24" else ""
  abort_backfill(
    "hour_ending",
    "Times run from {clock_text(step)} to 24:00 and never stand at",
    "00:00{hours}.",
    i = "Each may be the end of what it stands for (24:00 is",
    "{clock_text(86400 - step)} to midnight), or 24:00 the next midnight.",
    ">" = "Say which: `hour_ending` is TRUE or FALSE.",
    choices = list(hour_ending = TRUE)
  )
}

# The number of the order that fits most rows.
find_order <- function(parsed, at) {
  best <- which(parsed$fits == max(parsed$fits))
  if (max(parsed$fits) == 0) {
    return(1L)
  }
  doubts <- as.data.frame(
    parsed$doubts[c("one", "other", "row", "first", "then", "text")]
  )
  for (other in best[-1]) {
    here <- doubts[doubts$one == best[[1]] & doubts$other == other, ]
    # Of one or two years and months alone, 2010-11 is taken for the month of
    # ISO 8601.
    if (
      nrow(here) > 0 && !(
        names(date_orders)[[other]] == "fiscal" && nrow(here) < 3
      )
    ) {
      stop_ambiguous(here, c(best[[1]], other), at)
    }
  }
  best[[1]]
}

# Where rows bear out day, month, year and others month, day, year, those that
# fit both may be of either.
check_one_order <- function(parsed, order, at) {
  of_two <- match(c("dmy", "mdy"), names(date_orders))
  other <- setdiff(of_two, order)
  doubtful <- parsed$doubts$one %in% of_two & parsed$doubts$other %in% of_two
  if (length(other) > 1 || any(parsed$decides[of_two] == 0) ||
        !any(doubtful)) {
    return()
  }
  odd <- parsed$bad[parsed$code == order_code]
  abort_backfill(
    "date_order",
    "Dates are written in two orders: {date_orders[[order]]}, and",
    "{date_orders[[other]]}.",
    i = "{count_of(parsed$decides[[order]], 'row fits', 'rows fit')} as",
    "{date_orders[[order]]}, and {thousands(parsed$decides[[other]])} as",
    "{date_orders[[other]]}: line {in_words(thousands(at(odd)$line), 4)}.",
    i = "Dates that fit both may be of either.",
    ">" = "Set `date_order` to {quoted(names(date_orders)[[order]])} if these",
    "rows are slips, to be set aside; or read what has an order of its own by",
    "itself.",
    choices = list(date_order = names(date_orders)[[order]])
  )
}

# Of rows that only another order fits, as src/kernels/date_column.h has it.
order_code <- 5L

stop_ambiguous <- function(doubts, orders, at) {
  shown <- function(second) day_label(.Date(floor(second / 86400)))
  abort_backfill(
    "date_order",
    "Two orders fit every row: the dates may be",
    "{date_orders[[orders[[1]]]]}, or {date_orders[[orders[[2]]]]}.",
    x = "Line {at(doubts$row)$line}: {quoted(doubts$text)} is",
    "{shown(doubts$first)}, or {shown(doubts$then)}.",
    ">" = "Say which: `date_order` is",
    "{in_words(quoted(names(date_orders)[orders]), last = ' or ')}.",
    choices = list(date_order = likelier_order(names(date_orders)[orders]))
  )
}

likelier_order <- function(orders) {
  c(intersect(c("dmy", "ymd"), orders), orders)[[1]]
}

check_year_start <- function(parsed, order, rules, at) {
  first <- if (names(date_orders)[[order]] == "fiscal") {
    parsed$first_span
  } else {
    parsed$first_fiscal
  }
  if (is.null(rules$year_start) && first > 0) {
    abort_backfill(
      "when",
      "Line {at(first)$line} holds a fiscal year, of which it is not said when",
      "it starts.",
      ">" = "Give the month it starts in, such as `year_start` of 4 for April."
    )
  }
}
