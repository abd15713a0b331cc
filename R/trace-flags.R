# How a flag came about: its baseline, its limits and the figures in both.

trace_flag <- function(x, period, series, column) {
  column <- column %||% "flag"
  check_one_of(column, "flag", "column")
  about <- facts(x)
  lines <- names_of_lines(plain_tibble(x)[c(about$series, "measure")])
  series <- line_to_trace(series, unique(lines))
  calendar <- lay_calendar_over(about$calendar, x$period)
  own <- which(lines == series)
  past <- list(
    number = period_number(x$period[own], calendar), value = x$value[own],
    baseline = x$baseline[own], flag = x$flag[own], calendar = calendar
  )
  i <- match(number_of_period(period, calendar), past$number)
  if (is.na(i)) {
    abort_backfill(
      "argument", "The table has no row in that `period`.", call = NULL
    )
  }
  past$clean <- past$value
  if (about$exclude_flagged) past$clean[which(past$flag)] <- NA
  steps <- flag_steps(x[own[[i]], ], past, i, about)
  for (step in steps) check_worked(step)
  rows <- own[vapply(steps, `[[`, 0L, "at")]
  out <- tibble::tibble(
    depth = vapply(steps, `[[`, 0L, "depth"),
    column = vapply(steps, `[[`, "", "column"),
    plain_tibble(x)[rows, c(about$series, "measure", "period")],
    figure = vapply(steps, `[[`, 0, "figure"), judgement = x$judgement[rows],
    formula = vapply(steps, `[[`, "", "formula"),
    worked = vapply(steps, `[[`, "", "worked")
  )
  new_result(out, "trace", c(
    about[c("calendar", "series", "measures", "sources")],
    list(
      of = column, points = points_of_trace(x, lines, own[[i]]), line = series
    )
  ))
}

number_of_period <- function(period, calendar, call = caller_env()) {
  moment <- as_moments(period, "period", call)
  if (length(moment) != 1 || is.na(moment)) {
    abort_backfill(
      "argument", "`period` must be one date or time.", call = call
    )
  }
  period_number(moment, calendar)
}

flag_step <- function(at, depth, column, figure, formula, worked = NA) {
  list(
    at = at, depth = depth, column = column, figure = as.double(figure),
    formula = formula, worked = as.character(worked)
  )
}

flag_steps <- function(row, past, i, about) {
  base <- baseline_working(past, i, about)
  ends <- c(upper = row$upper, lower = row$lower)
  ends <- ends[is.finite(ends)]
  texts <- limits_working(past, i, about)
  value <- put_in(row$value)
  beyond <- c(upper = ">", lower = "<")[names(ends)]
  asked <- sprintf("%s %s", names(about$beyond), unlist(about$beyond))
  c(
    list(
      flag_step(
        i, 0L, "flag", row$flag,
        paste(
          "the value against the baseline, with limits of",
          in_words(asked, last = if (about$beyond_all) " and " else " or ")
        ),
        if (length(ends) > 0 && !is.na(row$flag)) {
          paste(value, beyond, put_in(ends), collapse = " | ")
        } else {
          NA
        }
      ),
      flag_step(i, 1L, "value", row$value, "the value judged"),
      flag_step(i, 1L, "baseline", row$baseline, base$formula, base$text)
    ),
    lapply(base$rows, function(at) {
      flag_step(at, 2L, "value", past$value[[at]], "a prior value")
    }),
    lapply(names(ends), function(end) {
      flag_step(
        i, 1L, end, ends[[end]], sprintf("the %s limit", end), texts[[end]]
      )
    })
  )
}

# list(rows, text, formula) of the baseline of the i-th row.
baseline_working <- function(past, i, about) {
  made <- function(rows, text, formula) {
    list(rows = rows, text = text, formula = formula)
  }
  at <- function(numbers) {
    rows <- match(numbers, past$number)
    rows <- rows[!is.na(rows)]
    rows[!is.na(past$clean[rows])]
  }
  middle <- function(rows, formula) {
    value <- past$clean[rows]
    text <- if (length(rows) == 0) NA else if (about$stat == "median") {
      of_values("quantile", value, "0.5")
    } else {
      mean_text(value)
    }
    made(rows, text, paste("the", about$stat, "of", formula))
  }
  number <- past$number[[i]]
  switch(
    about$against,
    "previous period" = middle(at(number - 1), "the period before"),
    "a cycle before" = middle(at(numbers_of_cycles(number, past, about)),
                              "the same period in cycles before"),
    "last periods" = if (about$stat == "smoothed") {
      smoothed_baseline(past, i, about)
    } else {
      middle(
        at(number - rev(seq_len(about$last))),
        sprintf("the last %d periods", as.integer(about$last))
      )
    },
    season = made(integer(), NA, paste(
      "the seasonal index of what came before the cycle, times the level of",
      "the last cycle"
    )),
    "year to date" = made(
      integer(), NA, "the total to the same date of the year before"
    ),
    made(integer(), NA, sprintf("the figure in column %s", about$against))
  )
}

numbers_of_cycles <- function(number, past, about) {
  cycle <- about$cycle
  distance <- check_distance(
    if (is.null(cycle$words)) cycle$length else cycle$words, past$calendar,
    "cycle"
  )
  out <- numeric()
  for (k in seq_len(about$last)) {
    number <- moved(distance, number, past$calendar)
    out <- c(out, number)
  }
  out[!is.na(out)]
}

# The level moves on from the baseline of the period before.
smoothed_baseline <- function(past, i, about) {
  before <- match(past$number[[i]] - 1, past$number)
  formula <- "the smoothed level of all periods before"
  known <- !is.na(before) && !is.na(past$baseline[[before]])
  if (!known) {
    return(list(rows = integer(), text = NA, formula = formula))
  }
  level <- put_in(past$baseline[[before]])
  value <- past$clean[[before]]
  text <- if (is.na(value)) level else sprintf(
    "%s + %s * (%s - %s)", level, put_in(rule_of_flags(about)$alpha),
    put_in(value), level
  )
  list(rows = before, text = text, formula = formula)
}

# The arithmetic of both limits, NA where there is none.
limits_working <- function(past, i, about) {
  base <- put_in(past$baseline[[i]])
  prior <- seq_len(i - 1)
  scaled <- about$against == "season" && about$form == "multiplicative"
  scale <- if (scaled) past$baseline[prior] else rep(1, i - 1)
  off <- (past$clean[prior] - past$baseline[prior]) / scale
  off <- off[!is.na(off)]
  each <- lapply(names(about$beyond), function(name) {
    reach_text(name, about$beyond[[name]], past, i, about, off, base)
  })
  times <- c(percent = FALSE, amount = FALSE, sd = scaled, mad = scaled,
             quantile = scaled)[names(about$beyond)]
  side <- function(which, nearest, farthest) {
    texts <- vapply(each, `[[`, "", which)
    texts <- ifelse(times, sprintf("%s * (%s)", base, texts), texts)
    texts <- texts[!is.na(vapply(each, `[[`, "", which))]
    if (length(texts) == 0) {
      return(NA)
    }
    joined <- if (length(texts) == 1) texts else sprintf(
      "%s(%s)", if (about$beyond_all) farthest else nearest,
      paste(texts, collapse = ", ")
    )
    sprintf("%s + %s", base, joined)
  }
  list(
    upper = side("high", "min", "max"), lower = side("low", "max", "min")
  )
}

# c(low, high): how far one limit reaches from the baseline.
reach_text <- function(name, limit, past, i, about, off, base) {
  number <- put_in(limit)
  none <- c(low = NA_character_, high = NA_character_)
  of_past <- name %in% c("sd", "mad", "quantile") && is.null(about$spread_of)
  if (of_past && length(off) < rule_of_flags(about)$enough) {
    return(none)
  }
  if (name == "percent" && past$baseline[[i]] <= 0) {
    return(none)
  }
  both <- function(text) c(low = sprintf("-(%s)", text), high = text)
  around <- function(middle, spread, widened) {
    reach <- sprintf("%s * %s", put_in(widened), spread)
    c(low = sprintf("(%s - %s)", middle, reach),
      high = sprintf("(%s + %s)", middle, reach))
  }
  switch(
    name,
    percent = both(if (about$floor > 0) {
      sprintf("max(%s / 100 * %s, %s)", number, base, put_in(about$floor))
    } else {
      sprintf("%s / 100 * %s", number, base)
    }),
    amount = both(number),
    sd = if (is.null(about$spread_of)) {
      widened <- widened_limits(limit, length(off) + 2, 1)
      around(of_values("mean", off), of_values("sd", off),
             widened[[length(off) + 1]])
    } else {
      both(sprintf("%s * %s", number, of_values("sd", recent(past, i, about))))
    },
    mad = {
      widened <- widened_limits(limit, length(off) + 2, 0.5)
      middle <- of_values("quantile", off, "0.5")
      away <- abs(off - worked_out(middle))
      around(
        middle, sprintf("1.4826 * %s", of_values("quantile", away, "0.5")),
        widened[[length(off) + 1]]
      )
    },
    quantile = quantile_reach(limit, about, off)
  )
}

recent <- function(past, i, about) {
  number <- past$number[[i]] - seq_len(about$spread_of)
  value <- past$clean[match(number, past$number)]
  value[!is.na(value)]
}

quantile_reach <- function(limit, about, off) {
  tail <- (1 - limit) / if (about$direction == "both") 2 else 1
  c(
    low = of_values("quantile", off, put_in(tail), "type = 6"),
    high = of_values("quantile", off, put_in(1 - tail), "type = 6")
  )
}
