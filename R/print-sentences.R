# What a periods table says, in sentences.

# Character vector, one sentence each.
#' @export
describe.backfill_periods <- function(x, ...) {
  if (nrow(x) == 0) {
    return(sprintf("No %s.", period_noun(facts(x)$calendar, 2)))
  }
  c(
    describe_span(x), describe_weeks(x), describe_basket(facts(x)),
    describe_standing(x), describe_imputed(facts(x)), describe_projected(x),
    describe_added(x)
  )
}

# "in 2031-12", "on 2031-12-31", "at 2031-12-31 07:00"
in_period <- function(period, calendar) {
  paste(
    if (by_clock(calendar)) "at" else if (calendar$unit %in% c(
      "day", "working day"
    ) && calendar$number == 1) "on" else "in",
    period_label(period, lay_calendar_over(calendar, period))
  )
}

describe_span <- function(x) {
  role <- facts(x)
  calendar <- lay_calendar_over(role$calendar, x$period)
  range <- period_label(range(x$period), calendar)
  count <- diff(period_number(range(x$period), calendar)) + 1
  measures <- role$measures[intersect(names(role$measures), unique(x$measure))]
  kinds <- vapply(measures, format, "")
  said <- sprintf(
    "%s (%s, %s)", names(measures), kinds,
    vapply(measures, words_of_use, "", "done")
  )
  by <- ""
  if (length(role$series) > 0) {
    keys <- vctrs::vec_unique(plain_tibble(x)[role$series])
    by <- if (nrow(keys) == 1) {
      paste(" for", names_of_lines(keys))
    } else {
      glue(" for each of {nrow(keys)} series by {in_words(role$series)}")
    }
  }
  span <- if (count == 1) sprintf(
    "1 %s, %s,", period_noun(calendar), range[[1]]
  ) else
    glue(
      "{count_of_periods(count, calendar)} from {range[[1]]} to {range[[2]]}"
    )
  c(
    sprintf("%s of %s%s.", span, in_words(said), by), describe_joined(role),
    describe_absent(role), describe_falls(x)
  )
}

# How sub-series were put together.
describe_joined <- function(role) {
  if (is.null(role$joined)) {
    return(NULL)
  }
  how <- unlist(role$joined$how)
  how <- how[how != "mean"]
  said <- ifelse(how == "sum", sprintf("%s is added up over them", names(how)),
                 sprintf("%s is weighted by %s", names(how), how))
  c(
    sprintf(
      "%s are put together.", count_of(role$joined$series, "series", "series")
    ),
    if (length(said) > 0) paste0(sentence_case(in_words(said)), ".")
  )
}

describe_absent <- function(role) {
  zero <- names(role$absent)[role$absent == "zero"]
  counted <- vapply(zero, function(name) {
    isTRUE(role$measures[[name]]$counted)
  }, NA)
  # Of a count that goes without saying.
  zero <- zero[!counted]
  spread <- names(role$absent)[role$absent == "spread"]
  c(
    if (length(zero) > 0) {
      sprintf("Where there is no record of %s, that means 0.", in_words(zero))
    },
    if (length(spread) > 0) {
      sprintf(
        "The increase of %s across missing readings is spread over them evenly.",
        in_words(spread)
      )
    },
    describe_days_off(role$days_off),
    if (identical(role$thin, "scale")) {
      paste(
        "Sums of complete periods that lack records are scaled to their full",
        "length, and stand as imputed."
      )
    },
    if (identical(role$partial, "scale")) {
      "First and last periods that are partial are scaled to their full length."
    },
    if (identical(role$partial, "drop")) {
      "First and last periods that were partial are left out."
    }
  )
}

# What was recorded on days off, where periods are working days.
describe_days_off <- function(off) {
  if (is.null(off)) {
    return(NULL)
  }
  counted <- vapply(
    seq_len(nrow(off)), function(i) count_of(off$count[[i]], off$noun[[i]]), ""
  )
  of <- function(rows) {
    in_words(glue("{counted[rows]} of {off$measure[rows]}"))
  }
  c(
    if (any(off$join)) {
      sprintf(
        "Recorded on days off, and counted in the next working day: %s.",
        of(off$join)
      )
    },
    if (!all(off$join)) {
      sprintf(
        "Recorded on days off, and left out as readings of another day: %s.",
        of(!off$join)
      )
    }
  )
}

format_plain_figures <- function(x) {
  plain_format(
    x, big.mark = ",", scientific = FALSE, digits = 15, trim = TRUE
  )
}

describe_standing <- function(x) {
  role <- facts(x)
  counts <- table(x$standing)
  counts <- counts[counts > 0]
  said <- sprintf("Of the %s, %s.", count_of(nrow(x), "value"),
                  in_words(sprintf("%s %s %s", thousands(counts),
                                   ifelse(counts == 1, "is", "are"), names(
                                     counts
                                   ))))
  if (nrow(x) == 1) {
    said <- sprintf("The one value is %s.", names(counts))
  }
  partial <- x[["standing"]] %in% "partial"
  if (any(partial)) {
    periods <- period_label(sort(unique(x$period[partial])), role$calendar)
    said <- paste0(
      said,
      glue(" Partial: {in_words(periods, 6)}; calculations leave them out.")
    )
  }
  large <- role$too_large
  if (isTRUE(large > 0)) {
    said <- paste0(said, sprintf(
      " %s too large for a number, and withheld.",
      count_of(large, "value is", "values are")
    ))
  }
  c(said, describe_cadence(x, partial & !is.na(x[["value"]])))
}

# What impute_gaps() did.
describe_imputed <- function(role) {
  unlist(lapply(role$imputed, function(one) {
    how <- switch(
      one$method, carry = "carried on from the period before",
      linear = "on a line between neighbours",
      seasonal = sprintf("taken from %s before", one$cycle), zero = "set to 0"
    )
    left <- one$left[one$left > 0]
    why <- sprintf("%s (%s)", names(left), thousands(left))
    c(
      if (one$filled > 0) {
        sprintf("Filled in: %s, %s.", count_of(one$filled, "empty value"), how)
      } else {
        "Nothing was filled in."
      },
      if (length(left) > 0) sprintf("Left empty: %s.", in_words(why))
    )
  }))
}

# What a basket holds.
describe_basket <- function(role) {
  if (is.null(role$basket)) {
    return(NULL)
  }
  weights <- role$basket$weights
  sprintf(
    "The basket holds %s, %s.",
    in_words(sprintf("%s of %s", format_share(weights), names(weights)), 8),
    if (role$basket$rebalance == "never") {
      "bought and held"
    } else {
      "rebalanced each period"
    }
  )
}

# Sentences broken at the width of the terminal.
wrapped <- function(sentences) {
  unlist(lapply(
    visible(sentences), strwrap, width = reading_width(), exdent = 2
  ))
}

# Longer lines are hard to read.
reading_width <- function() min(cli::console_width(), 100)

count_have <- function(n) paste(thousands(n), if (n == 1) "has" else "have")

count_are <- function(n, noun) {
  paste(count_of(n, noun), if (n == 1) "is" else "are")
}

# Units such as kWh and pH stay as they are.
sentence_case <- function(x) {
  first <- substr(x, 1, 1)
  small <- !grepl("^[a-z][A-Z]", x)
  first[small] <- toupper(first[small])
  paste0(first, substr(x, 2, nchar(x)))
}

# What a result says of itself; of records their account does.
sentences_of <- function(x) {
  if (is_read(x)) {
    return(utils::capture.output(print(account(x))))
  }
  said <- describe(x)
  if (length(said) == 0) count_of(nrow(x), "row") else said
}

# What a result is of: its measures, or the column that was asked for.
subject_in_words <- function(about, x) {
  if (about$of == "value") {
    in_words(measures_in_words(
      if (nrow(x) > 0) unique(x$measure) else names(about$measures), about
    ))
  } else {
    gsub("_", " ", about$of)
  }
}

# Each measure by its label, else by its name without underlines.
measures_in_words <- function(names, about) {
  vapply(as.character(names), function(name) {
    about$measures[[name]]$label %||% gsub("_", " ", name)
  }, "", USE.NAMES = FALSE)
}

# Whether the rows of a table are told apart by series and measure.
is_of_lines <- function(x) all(c(facts(x)$series, "measure") %in% names(x))

# "guest nights of Anchor", by the name that the line has where there are
# several measures; none where nothing but the measure tells lines apart.
words_of_lines <- function(x) {
  keys <- vctrs::vec_unique(keys_of(x))
  of <- lapply(as.list(keys[facts(x)$series]), as.character)
  if (length(of) == 0 || nrow(keys) == 0) {
    return(character())
  }
  stats::setNames(paste(
    measures_in_words(keys$measure, facts(x)), "of",
    do.call(paste, c(unname(of), sep = ", "))
  ), names_of_lines(keys, TRUE))
}
