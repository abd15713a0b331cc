# Records of what a reader gives: laid out, its columns read, its rows settled.

# From columns as read to a records table: dates and numbers are made of text,
# and rows where that fails set aside.
build_records <- function(raw, asked) {
  rules <- asked$rules
  raw <- lay_out(
    with_counts(with_plain_names(raw), asked), asked$layout, asked$when,
    asked$measures, asked$series
  )
  series <- raw$series
  measures <- check_roles(raw, raw$when, asked$measures, series)
  raw <- recoded(raw, asked$recode)
  raw$data <- with_held_units(raw$data, measures)
  measures <- held_units(raw$data, measures)
  check_rows(raw)
  raw$known <- asked$known
  check_known_there(raw, series, measures)
  raw <- with_plain_columns(raw, measures)
  raw <- with_lines(with_one_when(raw), asked$line_number)
  read <- read_columns(raw, measures, asked$zone, rules)
  settled <- settle_rows(read, raw, rules)
  lines <- series_on_one_line(settled$table, series)
  aside <- located(settled$rejected, raw)
  if (rules$strict && nrow(aside) > 0) {
    stop_strict(aside)
  }
  account <- new_account(
    raw$sources, aside, settled$merged,
    lapply(read$figures$read, `[[`, "missing"), settled$ends,
    c(settled$identical, settled$conflicting), raw$blank,
    c(
      raw$notes, read$moments$note, read$figures$notes, renamed_note(series),
      lines$note, nameless_note(lines$table, series),
      unlist(lapply(names(read$figures$read), function(name) {
        codes_note(name, odd_codes_in(read$figures$read[[name]]$value))
      })),
      versions_note(settled$table, raw)
    )
  )
  # Their rows are in an order that is ours.
  account$across <- asked$layout == "dates across"
  table <- with_ratios(lines$table, measures)
  taken <- match(series[series %in% result_columns], names(table))
  names(table)[taken] <- renamed_series(names(table)[taken])
  check_renamed(names(table), series)
  new_records(
    table, raw$when, renamed_series(series), measures, asked$zone, account,
    asked$known, rules$year_start, raw$kept
  )
}

# How records are to be made of what a reader gives: the columns of the date,
# the measures and the series as the user named them, the column of the day on
# which a row was known, the zone, the layout, and the rules of check_rules().
new_reading <- function(when, measures, series, zone, layout, rules, known) {
  check_one_of(layout, layouts, "layout")
  check_known(known, layout)
  checked <- check_measures(measures)
  if (all_counted(checked) && rules$duplicates != "distinct") {
    # Each row is an event of its own, also where two have one time.
    rules$duplicates <- "keep"
  }
  plain <- function(x) {
    if (is.character(x)) stats::setNames(one_line(x), names(x)) else x
  }
  list(
    known = plain(known), when = plain(when),
    measures = renamed_measures(
      checked, stats::setNames(one_line(names(checked)), names(checked))
    ),
    series = plain(series), zone = check_zone(zone), layout = layout,
    rules = rules
  )
}

# Its columns as dates, numbers or text; of whole numbers too long for a double
# it is told.
with_plain_columns <- function(raw, measures) {
  data <- raw$data
  long <- names(data)[vapply(data, inherits, NA, "integer64")]
  needed <- unique(c(
    raw$when, raw$series, raw$known, names(plain_measures(measures))
  ))
  data <- names_as_text(data, raw$series)
  raw$data <- plain_columns(data, needed)
  lost <- Filter(function(name) inexact(raw$data[[name]]), long)
  raw$notes <- c(raw$notes, inexact_note(lost))
  raw
}

# Its date in one column, put together where it stands in several.
with_one_when <- function(raw) {
  if (length(raw$when) > 1) {
    parts <- check_parts(raw$when)
    raw$zones <- unname(parts[names(parts) == "zone"])
    parts <- parts[names(parts) != "zone"]
    name <- if ("when" %in% names(raw$data)) "when.1" else "when"
    composed <- compose_when(stats::setNames(raw$data[parts], names(parts)))
    raw$data <- c(stats::setNames(list(composed), name), raw$data)
    raw$when <- name
  }
  raw
}

# With a column of the line (row, record) that each row stands in.
with_lines <- function(raw, name) {
  if (is.null(name)) {
    return(raw)
  }
  check_untaken(name, names(raw$data), "line_number")
  raw$data[[name]] <- as.integer(raw$at(seq_len(raw$rows))$line)
  raw
}

# list(data, moments, figures, rejected): the dates and figures of each row, and
# the rows of which one cannot be read, each once, for the first thing that is
# wrong with it.
read_columns <- function(raw, measures, zone, rules) {
  data <- raw$data
  when <- raw$when
  if (length(raw$files$of) == raw$rows) rules$files <- raw$files
  rules$serial <- raw$serial
  of_series <- if (length(raw$series) > 0) {
    vctrs::new_data_frame(data[raw$series])
  }
  moments <- if (length(raw$zones) == 0) {
    read_when(data[[when]], zone, of_series, rules, raw$at)
  } else {
    read_when_in_zones(
      data[[when]], data[[raw$zones]], zone, of_series, rules, raw$at
    )
  }
  rejected <- list(rejects(
    raw, data, when, moments, "when",
    paste(
      "Dates are expected such as 2031-04-09, 2031-04-09 07:30, 9.4.2031, 9",
      "April 2031, 2031-04 or 2031-Q2."
    )
  ))
  if (!is.null(raw$known)) {
    known <- read_when(data[[raw$known]], zone, of_series, rules, raw$at)
    rejected <- c(
      rejected,
      list(rejects(
        raw, data, raw$known, known, "when",
        "The day on which each row was published is expected."
      ))
    )
    data[[raw$known]] <- known$when
  }
  plain <- plain_measures(measures)
  figures <- read_figures(raw, data, plain, rules)
  for (name in names(plain)) {
    rejected <- c(
      rejected,
      list(rejects(
        raw, data, name, figures$read[[name]], "number",
        "Numbers are expected, such as 1250, -3.5 or 1,250.5."
      ))
    )
    data[[name]] <- figures$read[[name]]$value
  }
  data[[when]] <- moments$when
  rejected <- vctrs::vec_rbind(!!!rejected)
  rejected <- rejected[order(rejected$row), ]
  list(
    data = data, moments = moments, figures = figures,
    rejected = rejected[!duplicated(rejected$row), ]
  )
}

# The table of the rows that are left, with what settle_duplicates() tells, and
# all that are `rejected`.
settle_rows <- function(read, raw, rules) {
  rejected <- read$rejected
  table <- vctrs::new_data_frame(read$data, n = as.integer(raw$rows))
  used <- seq_len(raw$rows)
  if (nrow(rejected) > 0) {
    table <- vctrs::vec_slice(table, -rejected$row)
    used <- used[-rejected$row]
  }
  # Versions of one time are not duplicates.
  settled <- settle_duplicates(
    table, raw$when, raw$series, names(read$figures$read), rules$duplicates,
    function(rows) raw$at(used[rows]), raw$known
  )
  settled$table <- settled$data
  if (length(settled$drop) > 0) {
    same <- if (rules$duplicates == "distinct") {
      "the same in every column as line %d"
    } else {
      "the same series and time as line %d"
    }
    reason <- sprintf(same, raw$at(used[settled$of])$line)
    dropped <- vctrs::data_frame(
      row = used[settled$drop], column = raw$when,
      text = moments_in_words(settled$data[[raw$when]][settled$drop]),
      reason = reason
    )
    rejected <- rbind(rejected, dropped)
    settled$table <- vctrs::vec_slice(settled$data, -settled$drop)
  }
  settled$rejected <- rejected
  settled
}

# Columns with a role hold one plain value in each row; 64-bit integers, which R
# does not know by itself, are numbers.
plain_columns <- function(data, columns) {
  for (name in columns) {
    x <- data[[name]]
    if (inherits(x, "integer64")) {
      need_package("bit64", "to read 64-bit integers")
      data[[name]] <-
        suppressWarnings(bit64::as.double.integer64(x)) # told by inexact_note()
    } else if (!is_plain_column(x)) {
      held <- if (is.list(x)) {
        "a list in each row"
      } else if (length(dim(x)) > 1) {
        "a matrix"
      } else {
        paste(typeof(x), "values")
      }
      abort_backfill(
        "column", "Column \"{name}\" holds {held}.",
        i = "Dates, numbers or text are expected, one in each row."
      )
    }
  }
  data
}

is_plain_column <- function(x) {
  inherits(x, c("backfill_field", "POSIXlt")) ||
    is.atomic(x) && !is.complex(x) && !is.raw(x) && length(dim(x)) < 2
}

# What could not be read of a column: row, column, text and reason.
rejects <- function(raw, data, column, read, class, expected) {
  text <- read$text %||% as.character(data[[column]][read$bad])
  text[is.na(text)] <- ""
  found <- vctrs::data_frame(
    row = read$bad, column = rep(column, length(text)), text = text,
    reason = read$reason
  )
  if (nrow(found) * 2 >= raw$rows) {
    stop_unreadable(found, raw, class, expected)
  }
  found
}

# The rows set aside with their places in the source, those among them that the
# reader set aside before.
located <- function(rejected, raw) {
  at <- raw$at(rejected$row)
  column <- if (is.null(raw$column_of)) {
    rejected$column
  } else {
    raw$column_of(rejected$row, rejected$column)
  }
  aside <- vctrs::vec_rbind(
    raw$rejected,
    new_rejected(at$source, at$line, column, rejected$text, rejected$reason)
  )
  aside$text <- substr(aside$text, 1, 1000)
  aside[order(match(aside$source, raw$sources$source), aside$line), ]
}

# Of how many rows there is an earlier version.
versions_note <- function(table, raw) {
  if (is.null(raw$known)) {
    return()
  }
  later <- sum(duplicated(table[c(raw$series, raw$when)]))
  if (later > 0) {
    sprintf(
      "%s of a time that has one already: each counts from when it was known.",
      count_of(later, "row is a version", "rows are versions")
    )
  }
}
