#' Make records of a data frame
#'
#' The same as [read_records()] for rows that are in memory already: dates may
#' be text, numbers, `Date` or `POSIXct`, and measures numbers or text. Rows
#' that cannot be used are set aside with their row number as the line.
#'
#' @param x A data frame.
#' @inheritParams read_records
#' @param zone As in [read_records()]. A `POSIXct` column tells an instant,
#'   which `zone` leaves as it is; `zone` decides on which local day it falls.
#' @return A records table, as from [read_records()].
#' @section Errors: As [read_records()], and `backfill_error_input` where `x` is
#'   no data frame.
#' @examples
#' as_records(
#'   data.frame(date = c("2031-04-01", "2031-04-02"), landed = c(120.5, 98)),
#'   when = "date", measures = list(landed = measure("flow", unit = "kg"))
#' )
#' @export
as_records <- function(
  x, when, measures, series = NULL, zone = "UTC", layout = "rows",
  date_order = NULL, date_unit = NULL, pivot_year = 1969, year_start = NULL,
  repeated = "order", hour_ending = NULL, missing = NULL, decimal_mark = NULL,
  duplicates = "error", strict = FALSE, rename = NULL
) {
  if (!is.data.frame(x)) {
    abort_backfill(
      "input",
      sprintf("`x` is %s; a data frame is expected.", value_in_words(x))
    )
  }
  rules <- check_rules(
    date_order, date_unit, pivot_year, year_start, repeated, missing,
    decimal_mark, duplicates, strict, hour_ending
  )
  check_layout(layout)
  raw <- new_raw(
    lapply(as.list(x), in_one_encoding), nrow(x),
    header = list(enc2utf8(names(x))), source = "data frame", line = identity
  )
  rename_as_read(
    build_records(raw, when, measures, series, zone, layout, rules), rename
  )
}

# Texts that are the same in different encodings are the same text. `stop_odd`
# is told of one that is not in UTF-8.
in_one_encoding <- function(x, stop_odd = stop_odd_text) {
  if (!is.character(x) && !is.factor(x)) {
    return(x)
  }
  same <- enc2utf8(if (is.factor(x)) levels(x) else x)
  odd <- !validUTF8(same)
  if (any(odd)) stop_odd(quoted(iconv(same[odd][[1]], "latin1", "UTF-8")))
  if (is.factor(x)) factor(same[as.integer(x)], unique(same)) else same
}

stop_odd_text <- function(text) {
  abort_backfill(
    "input", sprintf("The table holds text that is not in UTF-8: %s.", text),
    ">" = "Convert it first with iconv().", call = NULL
  )
}

# The columns of a file whose format knows of no encoding but UTF-8.
file_columns <- function(columns, file, call) {
  lapply(as.list(columns), in_one_encoding, function(text) {
    abort_backfill(
      "file",
      sprintf(
        "%s holds text that is not in UTF-8: %s.", basename(file$shown), text
      ),
      i = paste(
        "It is damaged, or was written by a program that does not keep to",
        "its format."
      ),
      call = call
    )
  })
}

# What every reader gives: columns as they were read, and where each row came
# from. `header` has a character vector per header row, `line` turns rows into
# lines of `source`, `rejected` are rows that were set aside already, and
# `as_text` reads some columns once more as text, where their figures may have
# been misread.
new_raw <- function(
  data, rows, header, source, line, rejected = new_rejected(), blank = 0,
  notes = character(), as_text = NULL
) {
  names <- header[[length(header)]]
  list(
    data = stats::setNames(as.list(data), names), rows = rows, header = header,
    at = function(rows) {
      list(
        source = rep(source, length(rows)), line = as.integer(line(rows))
      )
    },
    rejected = rejected, blank = blank, notes = notes, as_text = as_text,
    sources = tibble::tibble(
      source = source, rows = as.integer(rows + nrow(rejected))
    )
  )
}

# From columns as read to a records table: dates and numbers are made of text,
# and rows where that fails set aside.
build_records <- function(
  raw, when, measures, series, zone, layout, rules, call = caller_env()
) {
  measures <- check_measures(measures, call)
  check_zone(zone, call)
  raw <- lay_out(raw, layout, when, measures, series, call)
  series <- raw$series
  measures <- check_roles(raw, raw$when, measures, series, call)
  check_rows(raw, call)
  raw <- with_plain_columns(raw, measures, call)
  raw <- with_one_when(raw, call)
  read <- read_columns(raw, measures, zone, rules, call)
  settled <- settle_rows(read, raw, rules, call)
  aside <- located(settled$rejected, raw)
  if (rules$strict && nrow(aside) > 0) {
    stop_strict(aside, call)
  }
  account <- new_account(
    raw$sources, sum(raw$sources$rows), aside, settled$merged,
    lapply(read$figures$read, `[[`, "missing"), settled$ends,
    c(settled$identical, settled$conflicting), raw$blank,
    c(raw$notes, read$moments$note, read$figures$notes, renamed_note(series))
  )
  table <- with_ratios(settled$table, measures)
  taken <- match(series[series %in% result_columns], names(table))
  names(table)[taken] <- renamed_series(names(table)[taken])
  check_renamed(names(table), series, call)
  new_records(
    table, raw$when, renamed_series(series), measures, zone, account
  )
}

# Its columns as dates, numbers or text; of whole numbers too long for a double
# it is told.
with_plain_columns <- function(raw, measures, call) {
  data <- raw$data
  long <- names(data)[vapply(data, inherits, NA, "integer64")]
  needed <- unique(c(raw$when, raw$series, names(plain_measures(measures))))
  raw$data <- plain_columns(data, needed, call)
  lost <- Filter(function(name) inexact(raw$data[[name]]), long)
  raw$notes <- c(raw$notes, inexact_note(lost))
  raw
}

# Its date in one column, put together where it stands in several.
with_one_when <- function(raw, call) {
  if (length(raw$when) > 1) {
    parts <- check_parts(raw$when, call)
    name <- if ("when" %in% names(raw$data)) "when.1" else "when"
    composed <- compose_when(stats::setNames(raw$data[parts], names(parts)))
    raw$data <- c(stats::setNames(list(composed), name), raw$data)
    raw$when <- name
  }
  raw
}

# list(data, moments, figures, rejected): the dates and figures of each row, and
# the rows of which one cannot be read, each once, for the first thing that is
# wrong with it.
read_columns <- function(raw, measures, zone, rules, call) {
  data <- raw$data
  when <- raw$when
  of_series <- if (length(raw$series) > 0) {
    vctrs::new_data_frame(data[raw$series])
  }
  moments <- read_when(data[[when]], zone, of_series, rules, raw$at, call)
  rejected <- list(rejects(raw, data, when, moments, "when", paste(
    "Dates are expected such as 2031-04-09, 2031-04-09 07:30, 9.4.2031, 9",
    "April 2031, 2031-04 or 2031-Q2."
  ), call))
  columns <- names(plain_measures(measures))
  figures <- read_figures(raw, data, columns, rules, call)
  for (name in columns) {
    rejected <- c(rejected, list(rejects(
      raw, data, name, figures$read[[name]], "number",
      "Numbers are expected, such as 1250, -3.5 or 1,250.5.", call
    )))
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
settle_rows <- function(read, raw, rules, call) {
  rejected <- read$rejected
  table <- vctrs::new_data_frame(read$data, n = as.integer(raw$rows))
  used <- seq_len(raw$rows)
  if (nrow(rejected) > 0) {
    table <- vctrs::vec_slice(table, -rejected$row)
    used <- used[-rejected$row]
  }
  settled <- settle_duplicates(
    table, raw$when, raw$series, names(read$figures$read), rules$duplicates,
    function(rows) raw$at(used[rows]), call
  )
  settled$table <- settled$data
  if (length(settled$drop) > 0) {
    reason <- sprintf(
      "the same series and time as line %d", raw$at(used[settled$of])$line
    )
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

with_ratios <- function(table, measures) {
  for (name in setdiff(names(ratios(measures)), names(table))) {
    table[[name]] <- divided(
      table[[measures[[name]]$of]], table[[measures[[name]]$per]]
    )
  }
  table
}

# Columns with a role hold one plain value in each row; 64-bit integers, which R
# does not know by itself, are numbers.
plain_columns <- function(data, columns, call) {
  for (name in columns) {
    x <- data[[name]]
    if (inherits(x, "integer64")) {
      need_package("bit64", "to read 64-bit integers", call)
      data[[name]] <-
        suppressWarnings(bit64::as.double.integer64(x)) # told by inexact_note()
    } else if (!is_plain_column(x)) {
      held <- if (is.list(x)) {
        "a list in each row"
      } else {
        paste(typeof(x), "values")
      }
      abort_backfill(
        "column", sprintf("Column \"%s\" holds %s.", name, held),
        i = "Dates, numbers or text are expected, one in each row.", call = call
      )
    }
  }
  data
}

is_plain_column <- function(x) {
  inherits(x, c("backfill_field", "POSIXlt")) ||
    is.atomic(x) && !is.complex(x) && !is.raw(x)
}

# What could not be read of a column: row, column, text and reason.
rejects <- function(raw, data, column, read, class, expected, call) {
  text <- read$text %||% as.character(data[[column]][read$bad])
  text[is.na(text)] <- ""
  found <- vctrs::data_frame(
    row = read$bad, column = rep(column, length(text)), text = text,
    reason = read$reason
  )
  if (nrow(found) * 2 >= raw$rows) {
    stop_unreadable(found, raw, class, expected, call)
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

# The figures of each measure, and sentences on how they were written.
read_figures <- function(raw, data, columns, rules, call) {
  texts <- Filter(
    function(column) is.character(column) || is.factor(column), data[columns]
  )
  mark <- rules$decimal_mark %||%
    (if (length(texts) > 0) {
      find_decimal_mark(lapply(texts, as.character), raw$at, call)
    } else {
      "."
    })
  if (mark == "," && !is.null(raw$as_text)) {
    # Beside 1,5 a 1.250 is a thousand, which the reader of the file could not
    # know.
    again <- columns[
      vapply(
        data[columns],
        function(x) is.double(x) && any(x != floor(x), na.rm = TRUE), NA
      )
    ]
    if (length(again) > 0) {
      data[again] <- raw$as_text(again)
    }
  }
  read <- lapply(stats::setNames(nm = columns), function(name) {
    read_number(data[[name]], mark, rules$missing)
  })
  list(read = read, notes = c(
    if (mark == ",") "A comma is read as the decimal mark.",
    unlist(lapply(
      columns, function(name) marks_note(name, read[[name]]$marks, call)
    ))
  ))
}

marks_note <- function(name, marks, call) {
  if (length(marks$signs) > 1) {
    abort_backfill(
      "number",
      sprintf(
        "Column \"%s\" holds several currencies: %s.", name,
        in_words(marks$signs)
      ),
      ">" = paste(
        "Convert them to one before they are read; figures of two",
        "currencies cannot be added."
      ),
      call = call
    )
  }
  said <- c(
    if (sum(marks$thousands) > 0) "thousands marks",
    if (sum(marks$percent) > 0) sprintf(
      "percent signs (%s; 12.5%% is read as 12.5)",
      if (marks$percent == marks$values) "on every value" else
        sprintf("on %d of %d values", marks$percent, marks$values)
    ),
    if (sum(marks$currency) > 0) sprintf("the sign %s", marks$signs),
    if (sum(marks$brackets) > 0) "brackets for figures below zero"
  )
  if (length(said) > 0) sprintf("Read past in %s: %s.", name, in_words(said))
}

check_rows <- function(raw, call) {
  if (raw$rows == 0) {
    abort_backfill(
      "file",
      sprintf("%s has a header but no rows that could be used.",
              in_words(basename(raw$sources$source), 3)),
      call = call
    )
  }
}

# Checks that the columns with roles are there, one role each; gives the
# measures.
check_roles <- function(raw, when, measures, series, call) {
  data <- raw$data
  files <- nrow(raw$sources)
  where <- if (files == 1) {
    basename(raw$sources$source)
  } else {
    sprintf("What %d files hold", files)
  }
  where <- sub("^data frame$", "The data frame", where)
  twice <- unique(names(data)[duplicated(names(data))])
  if (length(twice) > 0) {
    abort_backfill(
      "column",
      sprintf(
        "%s has more than one column named %s.", where, in_words(quoted(twice))
      ),
      ">" = "Give each column a name of its own.", call = call
    )
  }
  needed <- names(plain_measures(measures))
  check_columns(when, data, where, "when", call)
  check_columns(needed, data, where, "measures", call)
  check_columns(series, data, where, "series", call)
  roles <- c(unique(when), series, names(measures))
  if (anyDuplicated(roles)) {
    twice <- in_words(quoted(unique(roles[duplicated(roles)])))
    abort_backfill(
      "argument", sprintf("Column %s has two roles.", twice),
      i = "A column is the date, part of the series, or a measure.", call = call
    )
  }
  measures
}

# A few bad rows are set aside; a column of which half or more cannot be read is
# not what the user took it for.
stop_unreadable <- function(found, raw, class, expected, call) {
  fit <- raw$rows - nrow(found)
  aside <- located(
    vctrs::vec_slice(found, seq_len(min(3, nrow(found)))),
    utils::modifyList(raw, list(rejected = NULL))
  )
  abort_backfill(
    class,
    sprintf(
      "Column \"%s\" of %s cannot be read: %s of its %s.", found$column[[1]],
      basename(aside$source[[1]]), if (fit == 0) "none" else paste("only", fit),
      count_of(raw$rows, "row fits", "rows fit")
    ),
    i = expected,
    rlang::set_names(
      sprintf("Line %d: %s, %s.", aside$line, quoted(aside$text), aside$reason),
      "x"
    ),
    call = call
  )
}

stop_strict <- function(aside, call) {
  first <- aside[1, ]
  abort_backfill(
    "strict",
    sprintf(
      "Line %d of %s cannot be used: %s, %s.", first$line,
      basename(first$source), quoted(first$text), first$reason
    ),
    i = if (nrow(aside) > 1) sprintf(
      "So it is with %s in all.", count_of(nrow(aside), "row")
    ),
    ">" = paste(
      "Mend them, or leave `strict` out, and such rows are set aside and",
      "listed."
    ), call = call
  )
}
