# What a periods table says, in sentences.

# Character vector, one sentence each.
describe_periods <- function(x) {
  if (nrow(x) == 0) {
    return(sprintf("No %ss.", roles(x)$every))
  }
  c(describe_span(x), describe_standing(x), describe_added(x))
}

describe_span <- function(x) {
  role <- roles(x)
  range <- period_label(range(x$period), role$every)
  count <- diff(period_number(range(x$period), role$every)) + 1
  measures <- role$measures[intersect(names(role$measures), unique(x$measure))]
  kinds <- vapply(measures, format, "")
  rule <- c(flow = "added up", level = "averaged", counter = "differenced, then added up",
            ratio = "made of its parts when these are rolled up")
  said <- sprintf("%s (%s, %s)", names(measures), kinds, rule[vapply(measures, `[[`, "", "kind")])
  by <- ""
  if (length(role$series) > 0) {
    lines <- vctrs::vec_unique_count(plain_tibble(x)[role$series])
    by <- sprintf(" for each of %s by %s", count_of(lines, "series", "series"), in_words(role$series))
  }
  span <- if (count == 1) sprintf("1 %s, %s,", role$every, range[[1]]) else
    sprintf("%s from %s to %s", count_of(count, role$every), range[[1]], range[[2]])
  sprintf("%s of %s%s.", span, in_words(said), by)
}

describe_standing <- function(x) {
  role <- roles(x)
  counts <- table(x$standing)
  counts <- counts[counts > 0]
  said <- sprintf("Of the %s %s.", count_of(nrow(x), "value"),
                  in_words(sprintf("%s %s %s", format(counts, big.mark = ",", trim = TRUE),
                                   ifelse(counts == 1, "is", "are"), names(counts))))
  if (nrow(x) == 1) {
    said <- sprintf("The one value is %s.", names(counts))
  }
  partial <- x[["standing"]] %in% "partial"
  if (any(partial)) {
    periods <- period_label(sort(unique(x$period[partial])), role$every)
    said <- paste0(said, sprintf(" Partial: %s; calculations leave them out.", in_words(periods, 6)))
  }
  c(said, describe_cadence(x, partial))
}

# How complete was judged, and what to do where that leaves much out.
describe_cadence <- function(x, partial) {
  role <- roles(x)
  if (role$cadence == "irregular") {
    return("Records come irregularly, so coverage is not known.")
  }
  rule <- sprintf("Records come one per %s; a %s is complete from a coverage of %s.", role$cadence, role$every,
                  sub("\\.0%", "%", format_share(role$enough)))
  nearly <- sum(partial & x[["coverage"]] >= 0.9, na.rm = TRUE)
  if (nearly > 0) {
    rule <- paste(rule, sprintf("Of the partial values %d %s covered to 90%% or more; `enough` at 0.9 would count %s.",
                                nearly, if (nearly == 1) "is" else "are", if (nearly == 1) "it" else "them"))
  }
  left <- sum(partial) - nearly
  if (left > 2 && left > sum(x[["standing"]] == "complete")) {
    rule <- paste(rule, "If records are events that come when they come, say so: `cadence` is then \"irregular\".")
  }
  rule
}

describe_added <- function(x) {
  added <- roles(x)$added
  added <- added[intersect(names(added), names(x))]
  unlist(lapply(names(added), function(name) {
    note <- added[[name]]
    c(describe_latest(x, name, note), describe_withheld(x[[name]], name, note))
  }))
}

# The reasons were counted when the column was added; of a part of that table they would be too many.
describe_withheld <- function(column, name, note) {
  withheld <- note$withheld[note$withheld > 0]
  absent <- sum(is.na(column))
  if (absent == 0) {
    return(NULL)
  }
  reasons <- if (absent == sum(withheld)) {
    paste0(": ", in_words(sprintf("%s (%s)", names(withheld), format(withheld, big.mark = ",", trim = TRUE))))
  } else {
    " here"
  }
  sprintf("No %s is given for %s%s.", name, count_of(absent, "row"), reasons)
}

# The latest figure of each series, or of each measure's highest and lowest where there are many.
describe_latest <- function(x, name, note) {
  what <- switch(note$verb,
    growth = sprintf("growth of %s over %s", note$of, note$over),
    moving = sprintf("%s mean of %s over %s", note$align, note$of, note$over)
  )
  known <- which(!is.na(x[[name]]))
  if (length(known) == 0) {
    return(NULL)
  }
  latest <- known[x$period[known] == max(x$period[known])]
  line <- line_names(x)[latest]
  figure <- x[[name]][latest]
  said <- unlist(lapply(split(seq_along(latest), x$measure[latest]), function(rows) {
    said <- paste(line[rows], format_cells(figure[rows], note$unit))
    ends <- c(which.max(figure[rows]), which.min(figure[rows]))
    if (length(latest) <= 8) said else paste(c("highest", "lowest"), said[ends])
  }))
  sprintf("Latest %s (%s, %s): %s.", what, name, period_label(x$period[latest[[1]]], roles(x)$every), in_words(said))
}

# A name for each row's line: its series, its measure, or both where there are several of both.
line_names <- function(x) {
  role <- roles(x)
  parts <- as.list(plain_tibble(x)[role$series])
  if (length(parts) == 0 || length(unique(x$measure)) > 1) {
    parts <- c(parts, list(x$measure))
  }
  do.call(paste, c(unname(lapply(parts, as.character)), sep = " / "))
}

# Sentences broken at the width of the terminal.
wrapped <- function(sentences) {
  unlist(lapply(sentences, strwrap, width = reading_width(), exdent = 2))
}

# Longer lines are hard to read.
reading_width <- function() min(cli::console_width(), 100)
