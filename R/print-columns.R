# What the calculated columns of a table say.

describe_added <- function(x) {
  added <- facts(x)$added
  added <- added[intersect(names(added), names(x))]
  # Those of a projection are told with it.
  added <- Filter(function(note) note$verb != "interval", added)
  unlist(lapply(names(added), function(name) {
    note <- added[[name]]
    c(describe_latest(x, name, note), describe_withheld(x[[name]], name, note))
  }))
}

# The reasons were counted when the column was added; of a part of that table
# they would be too many.
describe_withheld <- function(column, name, note) {
  withheld <- note$withheld[note$withheld > 0]
  absent <- sum(is.na(column))
  if (absent == 0) {
    return(NULL)
  }
  if (absent == sum(withheld)) {
    missing_in_words(name, names(withheld), withheld)
  } else {
    sprintf("%s is missing in %s of these rows.", name, thousands(absent))
  }
}

missing_in_words <- function(name, reason, rows) {
  sprintf(
    "%s is missing in %s: %s.", name, count_of(sum(rows), "row"),
    reasons_in_words(reason, rows)
  )
}

reasons_in_words <- function(reason, rows) {
  in_words(if (length(rows) == 1) {
    reason
  } else {
    sprintf("%s (%s)", reason, thousands(rows))
  })
}

describe_latest <- function(x, name, note) {
  known <- which(!is.na(x[[name]]))
  if (length(known) > 0 && note$verb == "bands") {
    return(describe_bands(x[[name]][known], name, note))
  }
  latest <- latest_of_column(x, name, note)
  if (!is.null(latest)) c(
    sprintf(
      "Latest %s (%s): %s.", note_in_words(note),
      paste(c(name, latest$at), collapse = ", "), latest$said
    ),
    describe_note(name, note)
  )
}

# list(at, said): the latest figure of each series, or where there are many the
# highest and the lowest of each measure, and the period that they are all of;
# NULL where there are none.
latest_of_column <- function(x, name, note, most = 8) {
  rows <- latest_rows(x, name)
  if (length(rows) == 0 || note$verb == "bands") {
    return(NULL)
  }
  now <- x$period[rows] == max(x$period[rows])
  many <- length(rows) > most
  said <- if (many) {
    ends <- split(rows[now], x$measure[rows[now]])
    unlist(lapply(ends, ends_in_words, x = x, name = name, note = note))
  } else {
    latest_figures_of(x, rows, name, note, dated = !all(now))
  }
  earlier <- if (many && !all(now)) {
    sprintf(
      " (%s earlier)", count_of(sum(!now), "series ends", "series end")
    )
  }
  list(
    at = if (all(now) || many) {
      period_label(max(x$period[rows]), facts(x)$calendar)
    },
    said = paste0(in_words(said), earlier)
  )
}

# The rows with the latest figure of each line in a column.
latest_rows <- function(x, name) {
  known <- which(!is.na(x[[name]]))
  rows <- known[order(x$period[known])]
  line <- vctrs::vec_group_id(vctrs::vec_slice(keys_of(x), rows))
  sort(rows[!duplicated(line, fromLast = TRUE)])
}

describe_note <- function(name, note) {
  c(
    note$form_said,
    if (isTRUE(note$target)) {
      glue("{name} looks ahead: it can be a target, but it explains nothing.")
    },
    if (isTRUE(note$enlarged$n > 0)) {
      sprintf(
        paste(
          "Periods are missing in the windows of %s of %s: what there is was",
          "enlarged to the whole window, by up to %.0f%%."
        ),
        count_of(note$enlarged$n, "figure"), name,
        100 * note$enlarged$most
      )
    },
    if (isTRUE(note$unlike$n > 0)) {
      glue(
        "In {count_of(note$unlike$n, 'figure')} of {name} the two periods",
        "differ in coverage, which alone moves a sum by up to",
        "{share_in_words(note$unlike$most)}."
      )
    },
    if (isTRUE(note$longer > 0)) {
      sprintf(
        "Of %s %s more than one period, back to the latest whole value.", name,
        if (note$longer == 1) {
          "1 figure spans"
        } else {
          paste(count_of(note$longer, "figure"), "span")
        }
      )
    }
  )
}

latest_figures_of <- function(x, rows, name, note, dated = FALSE) {
  figure <- trimws(format_cells(x[[name]][rows], note$unit, x$measure[rows]))
  keys <- vctrs::vec_slice(keys_of(x), rows)
  said <- paste(names_of_lines(keys, several_measures(x)), figure)
  if (dated) {
    at <- period_label(x$period[rows], facts(x)$calendar)
    said <- sprintf("%s (%s)", said, at)
  }
  said[order(match(x$measure[rows], unique(x$measure)))]
}

ends_in_words <- function(rows, x, name, note) {
  figure <- x[[name]][rows]
  ends <- rows[c(which.max(figure), which.min(figure))]
  paste(c("highest", "lowest"), latest_figures_of(x, ends, name, note))
}

describe_bands <- function(band, name, note) {
  counts <- table(band)
  sprintf("Bands of %s (%s): %s.", note$of, name,
          in_words(sprintf(
            "%s %s", names(counts), thousands(as.vector(counts))
          )))
}
