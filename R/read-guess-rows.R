# What the columns of a file are, as far as it can be told.

# Each column with a date as its header: the other ones say whose figures they
# are.
# `part` is what part_across() or part_beside() found, if it is not whole dates
# that stand across.
guess_across <- function(raw, part = NULL) {
  header <- raw$header[[1]]
  dated <- part$cells %||% (
    rowSums(read_dates_cpp(header, 1969L, 1L)$outcome == 0L) > 0
  )
  span <- range(which(dated))
  own <- unname(part$when[-2])
  beside <- setdiff(header[-seq(span[[1]], span[[2]])], own)
  # Figures beside months are totals of them, say, and no names.
  figures <- if (!is.null(part)) {
    beside[vapply(raw$data[beside], holds_figures, NA)]
  }
  beside <- setdiff(beside, figures)
  values <- stack_columns(unname(raw$data[header[dated]]))
  number <- read_number(values)$value
  by_row <- matrix(number, nrow = raw$rows)
  series <- rep(seq_len(raw$rows), ncol(by_row))
  order <- order(series)
  guess <- guess_kind("value", number[order], series[order])
  list(
    columns = new_rows(
      column = c(
        own, beside, sprintf("%s to %s", header[span[[1]]], header[span[[2]]])
      ),
      role = c(
        rep("date", length(own)), rep("series", length(beside)),
        sprintf("%s across", if (is.null(part)) "dates" else part$when[[2]])
      ), kind = c(
        rep("", length(own) + length(beside)), guess$kind
      ),
      reason = c(rep("the rest of the date", length(own)),
                 rep("stands beside the dates", length(beside)),
                 sprintf(
                   "%d headers are %s; %s", sum(dated),
                   if (is.null(part)) {
                     "dates"
                   } else {
                     paste0(names(part$when)[[2]], "s")
                   },
                   guess$reason
                 ))
    ),
    arguments = c(
      if (!is.null(part)) list(when = part$when),
      list(measures = list(value = guess$kind)),
      if (length(beside) > 0) list(series = beside),
      list(layout = "dates across")
    ),
    notes = c(
      if (is.null(part)) paste(
        "The measure is called value and the column of dates date; give them",
        "names of your own."
      ) else "The measure is called value; give it a name of your own.",
      if (length(figures) > 0) sprintf(
        "Not used: %s, which %s figures of %s own.", in_words(quoted(figures)),
        if (length(figures) == 1) "holds" else "hold",
        if (length(figures) == 1) "its" else "their"
      )
    )
  )
}

# `across` says that each column of figures is known to be a series.
guess_rows <- function(raw, across = FALSE) {
  data <- raw$data
  when <- if (is.null(raw$when)) {
    guess_when(raw)
  } else {
    list(columns = raw$when, when = NULL, reason = "is the axis of time")
  }
  rest <- setdiff(names(data), when$columns)
  figures <- rest[vapply(data[rest], holds_figures, NA)]
  # Columns of numbers that measure nothing, each with what it is.
  numbers <- unlist(lapply(stats::setNames(nm = figures), function(name) {
    no_measure(name, data[[name]])
  }))
  if (length(numbers) == length(figures)) numbers <- character()
  figures <- setdiff(figures, names(numbers))
  dates <- vapply(data[rest], share_of_dates, 0) >= 0.8
  other_dates <- setdiff(rest[dates], figures)
  words <- setdiff(rest, c(figures, other_dates, names(numbers)))
  units <- unlist(lapply(
    stats::setNames(nm = words), function(name) unit_of_all(data[[name]])
  ))
  data[names(units)] <- Map(without_unit, data[names(units)], units)
  figures <- c(figures, names(units))
  texts <- setdiff(rest, c(figures, other_dates, names(numbers)))
  moments <- key_of_moments(data, when)
  parts <- guess_series(data, texts, figures, moments)
  measures <- setdiff(figures, parts$series)
  # A log of events.
  log <- length(measures) == 0
  if (log) parts <- series_of_events(data, texts, parts)
  kinds <- if (log) rows_counted(names(data)) else
    guess_kinds(data, parts$series, measures, moments, raw$files$of)
  for (name in intersect(names(kinds), names(units))) {
    kinds[[name]] <- with_guessed_unit(kinds[[name]], units[[name]])
  }
  kind <- vapply(kinds, `[[`, "", "kind")
  if (stand_across(measures, setdiff(rest, measures), across)) {
    return(guess_series_across(when, kind, moments, across))
  }
  list(
    columns = guessed_columns(when, parts, kinds, rest, other_dates, numbers),
    arguments = c(
      if (!is.null(when$when)) list(when = when$when),
      list(measures = measures_in_units(kind, units)),
      if (length(parts$series) > 0) list(series = parts$series)
    ),
    moments = moments$key,
    restarts = unlist(lapply(kinds, `[[`, "restarts")),
    notes = c(
      known = dates_to_decide(other_dates, unname(when$columns)),
      kinds = kinds_to_decide(kinds),
      items = items_to_decide(parts$series, measures),
      totals_to_decide(data[parts$series])
    )
  )
}

# So many columns of figures beside nothing but dates are hardly measures, each
# of its own.
most_measures <- 20

stand_across <- function(measures, others, said) {
  if (said) {
    return(length(measures) > 0)
  }
  length(measures) >= most_measures && length(others) == 0
}

guess_series_across <- function(when, kind, moments, said) {
  counts <- sort(table(kind), decreasing = TRUE)
  usual <- names(counts)[[1]]
  names <- names(kind)
  list(
    columns = new_rows(
      column = c(
        when$columns,
        sprintf("%s to %s", names[[1]], names[[length(names)]])
      ),
      role = c(rep("date", length(when$columns)), "series across"),
      kind = c(rep("", length(when$columns)), usual),
      reason = c(
        rep(when$reason, length(when$columns)),
        glue("{length(kind)} columns of figures, {counts[[1]]} like a {usual}")
      )
    ),
    arguments = c(
      if (!is.null(when$when)) list(when = when$when),
      list(
        measures = list(value = usual), series = "series",
        layout = "series across"
      )
    ),
    moments = moments$key,
    notes = paste(c(
      if (!said) c(
        "For you to decide: whether these columns hold one measure, each of a",
        "series, as is taken here; else name those that you want in `measures`."
      ), "The measure is called value; give it a name of your own."
    ), collapse = " ")
  )
}

# What numbers are that are no measure's, or NULL.
no_measure <- function(name, column) {
  if (numbers_rows(column)) {
    return("numbers the rows one by one")
  }
  if (grepl("^(lat|lon|lng|latitude|longitude)$", name, ignore.case = TRUE)) {
    return("is a coordinate")
  }
  hour <- grepl("(^|[^a-z])(hr|hour|hours)([^a-z]|$)", name, ignore.case = TRUE)
  number <- if (hour) unique(read_number(column)$value)
  if (length(number) > 5 && all(number %in% 0:24)) "is an hour of the day"
}

# The sum of other series would be counted twice.
totals_to_decide <- function(series) {
  totals <- unique(unlist(lapply(series, function(names) {
    grep(
      "^(grand )?(total|sum|all|overall)s?$", trimws(unique(names)),
      ignore.case = TRUE, value = TRUE
    )
  })))
  if (length(totals) > 0) {
    glue(
      "For you to decide: whether {in_words(quoted(totals))} sums up the other",
      "series; where it does, leave it out before anything is added up over",
      "them."
    )
  }
}

# A running number of the rows never falls, and is no counter.
numbers_rows <- function(column) {
  number <- read_number(column)$value
  length(number) >= 5 && !anyNA(number) && all(number == floor(number)) &&
    all(diff(number) == 1)
}

# The kind of each measure, judged along the series of each file: files that
# hold a meter each do not rise together.
guess_kinds <- function(data, series, measures, moments, file = NULL) {
  if (length(file) != length(data[[1]])) file <- rep(1L, length(data[[1]]))
  series_id <- as.integer(vctrs::vec_group_id(
    vctrs::new_data_frame(c(list(.file = file), data[series]))
  ))
  order <- order(series_id, moments$order)
  lapply(stats::setNames(nm = measures), function(name) {
    value <- read_number(data[[name]], guess_mark(data[[name]]))$value
    guess_kind(name, value[order], series_id[order], moments$order[order])
  })
}

# One row per column: what it is taken for, and why.
guessed_columns <- function(when, parts, kinds, rest, other_dates, numbers) {
  beside <- setdiff(rest, c(parts$series, names(kinds)))
  counts <- c(
    length(when$columns), length(parts$series), length(kinds), length(beside)
  )
  new_rows(
    column = c(when$columns, parts$series, names(kinds), beside),
    role = rep(c("date", "series", "measure", "kept beside"), counts),
    kind = c(
      rep("", counts[[1]] + counts[[2]]),
      unname(vapply(kinds, `[[`, "", "kind")), rep("", counts[[4]])
    ),
    reason = unname(c(
      rep(when$reason, counts[[1]]), parts$reason,
      vapply(kinds, `[[`, "", "reason"),
      ifelse(
        beside %in% other_dates,
        "holds dates too, such as the day on which a row was published",
        ifelse(
          beside %in% names(numbers), numbers[beside],
          "is needed neither to tell series apart nor holds figures"
        )
      )
    ))
  )
}

dates_to_decide <- function(other, chosen) {
  if (length(other) == 0) {
    return()
  }
  glue(
    "For you to decide: {in_words(quoted(other))}",
    "{if (length(other) == 1) 'holds' else 'hold'} dates as well.",
    "{in_words(quoted(chosen))} {if (length(chosen) == 1) 'is' else 'are'}",
    "taken for the date of the figures. If a column has the day on which a row",
    "was published, name it in `known`."
  )
}
