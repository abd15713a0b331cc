# What seasonal indices, their tests and worksheets say.

#' @export
describe.backfill_seasonal_index <- function(x, ...) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  season <- facts(x)
  c(
    sprintf(
      paste(
        "Seasonal index of %s over %s, %s: %s the %s, at each %s %s, %s.%s"
      ), season_subject(season, x),
      season$cycle$words, season$form, if (season$form == "multiplicative") {
        "ratios to"
      } else {
        "differences from"
      },
      c(centred_average = "centred average over a cycle",
        overall_average = "overall average of all over a cycle",
        local_line = "line through the adjusted values around it"
      )[[reference_name(season$method, season$combine)]], season$cycle$noun,
      c(mean = "their mean", median = "their median",
        "trimmed mean" = "their mean without the extremes",
        "mean without outliers" = "their mean without outliers",
        "moving mean" = paste(
          "the mean of those of the cycles around, without outliers"
        )
      )[[season$combine]],
      if (season$normalised) {
        sprintf("normalised to average %d", neutral(season))
      } else {
        "not normalised"
      },
      if (season$cycle$own) {
        glue(
          " {sentence_case(period_noun(season$calendar, 2))} have a cycle of",
          "{season$cycle$words} unless `cycle` names another."
        )
      } else {
        ""
      }
    ),
    if (shows_latest(season)) {
      "Each period has an index of its own; shown are the latest."
    },
    season$form_said,
    if (length(season$by_weekdays) > 0) glue(
      "How many of each weekday a {period_noun(season$calendar)} has moves",
      "{in_words(season$by_weekdays, 4)} (p < 0.01); calendar_effects() shows",
      "by how much."
    ),
    if (!is.null(season$tests)) {
      c(
        describe_seasons(x), describe_shapes(x), describe_moves(x),
        describe_disagreeing(x)
      )
    }
  )
}

# A file of an index does not say which series moves.
shows_latest <- function(season) {
  !is.null(season$moving) &&
    (is.null(season$tests) || any(season$tests$kept < 1, na.rm = TRUE))
}

season_subject <- function(season, x) {
  if (season$of == "value") {
    in_words(unique(x[["measure"]]))
  } else {
    season$of
  }
}

neutral <- function(season) if (season$form == "multiplicative") 1L else 0L

# Each series, or how many of them have a season where there are many.
describe_seasons <- function(x, most = 8) {
  season <- facts(x)
  tests <- summary(x)
  tests <- tests[!is.na(tests$highest), ]
  if (nrow(tests) > most) {
    return(seasons_counted(tests, season))
  }
  named <- function(position) {
    paste0(if (season$cycle$noun == "position") "position ", position)
  }
  found <- sprintf(
    "%s runs %s an average %s, %s %s", named(tests$highest_at),
    index_in_words(tests$highest, season$form), period_noun(season$calendar),
    named(tests$lowest_at), index_in_words(tests$lowest, season$form)
  )
  said <- paste(found, seasons_judged(tests, season), sep = "; ")
  size <- if (season$form == "additive") tests$range_before else 1
  flat <- tests$highest - tests$lowest <= 1e-9 * size # but for rounding
  said[flat] <- glue(
    "every {season$cycle$noun} is the same, so there is no season"
  )
  sprintf("%s: %s.", lines_of_result(tests), said)
}

# Where there are too many series to name each.
seasons_counted <- function(tests, season) {
  yes <- tests$season_p < 0.05
  c(
    sprintf(
      paste(
        "Of %s %s a season (p below 0.05); its share of the variation%s",
        "is %s in the middle."
      ),
      count_of(nrow(tests), "series", "series"),
      count_have(sum(yes, na.rm = TRUE)), around_trend_in_words(season),
      format_share(quantiles_of(tests$explained[!is.na(tests$explained)], 0.5))
    ),
    chance_of_many(tests$season_p, yes, lines_of_result(tests))
  )
}

# "12% above" of an index of 1.12.
index_in_words <- function(index, form) {
  if (form == "additive") {
    side <- ifelse(index < 0, "below", "above")
    return(sprintf("%s %s", trimws(format_figures(abs(index))), side))
  }
  percent <- abs(100 * (index - 1))
  sprintf(
    "%s%% %s",
    ifelse(percent < 1, sprintf("%.1f", percent), sprintf("%.0f", percent)),
    ifelse(index < 1, "below", "above")
  )
}

seasons_judged <- function(tests, season) {
  share <- sprintf(
    "%s of the variation%s is season", format_share(tests$explained),
    around_trend_in_words(season)
  )
  p <- p_in_words(tests$season_p)
  ifelse(
    is.na(tests$season_p),
    glue("with one ratio at each {season$cycle$noun} nothing can be tested"),
    ifelse(
      tests$season_p < 0.05, sprintf("%s (%s)", share, p),
      sprintf("but that cannot be told from chance (%s)", p)
    )
  )
}

# Only where a trend was taken out.
around_trend_in_words <- function(season) {
  if (
    season$method == "centred average"
  ) {
    " around the trend"
  } else {
    ""
  }
}

p_in_words <- function(p) ifelse(p < 0.001, "p < 0.001", sprintf("p = %.3f", p))

# Whether the day has one shape on all weekdays.
describe_shapes <- function(x) {
  tests <- summary(x)
  if (!"shape_p" %in% names(tests) || all(is.na(tests$shape_p))) {
    return(NULL)
  }
  name <- lines_of_result(tests)
  unlike <- which(tests$shape_p < 0.05)
  c(
    if (length(unlike) > 0) sprintf(
      "The course of a day differs between weekdays in %s.", in_words(glue(
        "{name[unlike]} ({format_share(tests$shape_share[unlike])} of its",
        "variation, {p_in_words(tests$shape_p[unlike])})"
      ), 4)
    ),
    if (length(unlike) < nrow(tests)) paste0(
      "No difference between weekdays in the course of the day was found",
      if (length(unlike) > 0) " elsewhere", ": the week moves its level alone."
    )
  )
}

describe_disagreeing <- function(x, most = 5) {
  odd <- which(nzchar(x[["disagree"]]))
  if (length(odd) > 0) {
    name <- lines_of_result(x)[odd]
    sprintf(
      if (without_outliers(facts(x)$combine)) {
        "Left out as outliers: %s."
      } else {
        "Outliers among the ratios at their position: %s."
      }, in_words(sprintf(
        "%s %s (%s)", name, x[["position"]][odd],
        first_of_list(x[["disagree"]][odd])
      ), most)
    )
  }
}

# "2029, 2030 and 3 more"
first_of_list <- function(x, most = 2) {
  count <- lengths(strsplit(x, ", ", fixed = TRUE))
  long <- count > most
  x[long] <- sprintf(
    "%s and %d more", sub("^(([^,]*, ){1}[^,]*),.*", "\\1", x[long]),
    count[long] - most
  )
  x
}

# Of several series, where not all is asked for: their indices side by side
# where there is room, else a row for each.
#' @export
table_cells.backfill_seasonal_index <- function(x, n = Inf) {
  lines <- unique(lines_of_result(x))
  if (is.infinite(n) || length(lines) < 2) {
    if (!is.null(x$disagree)) x$disagree <- first_of_list(x$disagree)
    return(NextMethod())
  }
  beside <- "how far the ratios spread"
  positions <- nlevels(x$position)
  figures <- split(format_figures(x$index), lines_of_result(x))
  if (
    all(lengths(figures) == positions) &&
      sum(pmax(nchar(lines, "width"), 5) + 2) + 11 <= reading_width()
  ) {
    shown <- seq_len(min(n, positions))
    text <- c(
      list(position = levels(x$position)), lapply(figures[lines], trimws)
    )
    right <- rep(c(FALSE, TRUE), c(1, length(lines)))
    return(new_cells(lapply(text, `[`, shown), right, positions, beside))
  }
  lines <- index_lines(x)
  tests <- facts(x)$tests
  shown <- new_rows(lines, index_ends(x), if (!is.null(tests)) {
    tests[
      vctrs::vec_match(lines, tests[names(lines)]),
      c("explained", "season_p")
    ]
  })
  cells <- text_cells(
    shown[seq_len(min(n, nrow(shown))), ], column_units(x)
  )
  new_cells(cells$text, cells$right, nrow(shown), beside)
}
