# How a flag came about: its baseline, its limits and the figures in both.

trace_flag <- function(x, period, series, column) {
  column <- column %||% "flag"
  check_one_of(column, "flag", "column")
  about <- facts(x)
  lines <- names_of_lines(
    plain_tibble(x)[c(about$series, "measure")], about$several
  )
  series <- line_to_trace(series, unique(lines))
  about <- asked_of_row(about, against_at(x, period, lines == series))
  along <- along_flags(x, is_counted(about))
  calendar <- along$calendar
  at <- which(lines[along$order] == series)
  own <- along$order[at]
  number <- period_number(x$period[own], calendar)
  i <- match(
    number_at(period, list(number = number, calendar = calendar), "period"),
    number
  )
  past <- list(
    number = along$number[at], value = x$value[own],
    baseline = x$baseline[own], flag = x$flag[own], calendar = calendar
  )
  if (facts(x)$against == baseline_if_known && about$against == "season") {
    past[c("baseline", "flag")] <- judged_by_season(past, about)
  }
  past$clean <- past$value
  if (about$exclude_flagged) past$clean[which(past$flag)] <- NA
  steps <- flag_steps(x[own[[i]], ], past, i, own, about)
  for (step in steps) check_worked(step)
  new_trace(table_of_steps(steps, x, "judgement"), x, NULL, list(
    of = column, where = paste(
      series, period_label(x$period[[own[[i]]]], calendar), sep = ", "
    ),
    points = points_of_trace(x, lines, vapply(steps, `[[`, 0L, "row"))
  ))
}

# What the row that is traced was compared with, where rows differ in that.
against_at <- function(x, period, own) {
  calendar <- lay_calendar_over(facts(x)$calendar, x$period)
  number <- period_number(x$period, calendar)
  at <- number_at(
    period, list(number = number[own], calendar = calendar), "period"
  )
  x[["against"]][own][match(at, number[own])]
}

# Earlier rows may have been compared with something else, but the limits are
# made of how they departed from the season.
judged_by_season <- function(past, about) {
  along <- list(
    series = rep(1L, length(past$number)), number = past$number,
    value = past$value, calendar = past$calendar
  )
  cycle <- check_cycle(about$cycle$words, past$calendar)
  flags_along(along, about, list(at = positions_along(along, cycle)))[
    c("baseline", "flag")
  ]
}

flag_step <- function(row, depth, column, figure, formula, worked = NA) {
  list(
    row = row, depth = depth, column = column, figure = as.double(figure),
    formula = formula, worked = as.character(worked)
  )
}

# `own` are the rows of the series in the table.
flag_steps <- function(one, past, i, own, about) {
  base <- baseline_working(past, i, about)
  ends <- c(upper = one$upper, lower = one$lower)
  ends <- ends[is.finite(ends)]
  texts <- limits_working(past, i, about)
  beyond <- c(upper = ">", lower = "<")[names(ends)]
  judged <- length(ends) > 0 && !is.na(one$flag)
  here <- own[[i]]
  against <- baseline_in_words(about)
  c(
    list(
      flag_step(
        here, 0L, "flag", one$flag,
        glue("compared with {against}; limits: {limits_in_words(about)}"),
        if (judged) {
          paste(put_in(one$value), beyond, put_in(ends), collapse = " | ")
        } else {
          NA
        }
      ),
      flag_step(here, 1L, "value", one$value, "the value judged"),
      flag_step(here, 1L, "baseline", one$baseline, against, base$text)
    ),
    lapply(base$rows, function(at) {
      flag_step(own[[at]], 2L, "value", past$value[[at]], "a prior value")
    }),
    lapply(names(ends), function(end) {
      flag_step(
        here, 1L, end, ends[[end]], sprintf("the %s limit", end), texts[[end]]
      )
    })
  )
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
      around(worked_text("mean(x)", x = off), worked_text("sd(x)", x = off),
             widened[[length(off) + 1]])
    } else {
      both(sprintf(
        "%s * %s", number, worked_text("sd(x)", x = recent(past, i, about))
      ))
    },
    mad = {
      widened <- widened_limits(limit, length(off) + 2, 0.5)
      middle <- worked_text("quantile(x, 0.5)", x = off)
      away <- abs(off - worked_out(middle))
      around(
        middle, sprintf(
          "1.4826 * %s", worked_text("quantile(x, 0.5)", x = away)
        ),
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
    low = worked_text(
      sprintf("quantile(x, %s, type = 6)", put_in(tail)), x = off
    ),
    high = worked_text(
      sprintf("quantile(x, %s, type = 6)", put_in(1 - tail)), x = off
    )
  )
}
