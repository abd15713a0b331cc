# Layouts: one record per row, or dates or series across. The wide ones become
# one record per row here.

layouts <- c("rows", "dates across", "series across")

check_layout <- function(layout, call = caller_env()) {
  check_one_of(layout, layouts, "layout", call)
}

# `raw` with one record per row, and the columns that have the roles `when` and
# `series`.
lay_out <- function(raw, layout, when, measures, series, call) {
  if (!is.null(series) && !names_columns(series)) {
    abort_backfill(
      "argument",
      sprintf("`series` is %s; it must name columns.", value_in_words(series)),
      call = call
    )
  }
  if (layout == "dates across") {
    return(dates_down(raw, when %||% "date", measures, series, call))
  }
  if (!names_columns(when)) {
    abort_backfill(
      "argument", sprintf("`when` is %s.", value_in_words(when)),
      i = "It must name the column with the date, or several with its parts.",
      call = call
    )
  }
  if (layout == "series across") {
    # A column of the files' names stands beside the series.
    named <- setdiff(series, raw$series)
    named <- if (length(named) > 0) named else "series"
    return(series_down(raw, when, measures, named, call))
  }
  if (length(raw$header) > 1) {
    abort_backfill(
      "argument",
      "`header_rows` is above 1, which `layout` \"rows\" has no use for.",
      ">" = paste(
        "Say `layout` is \"series across\" where two header rows name",
        "measures and series."
      ),
      call = call
    )
  }
  with_roles(raw, unname_single(when), series)
}

names_columns <- function(x) is.character(x) && length(x) > 0 && !anyNA(x)

# Says which columns have the roles; a grid, or files that are named, may have
# said so before.
with_roles <- function(raw, when, series) {
  raw["when"] <- list(when)
  raw["series"] <- list(series)
  raw
}

# A single column needs no name of a part.
unname_single <- function(when) if (length(when) == 1) unname(when) else when

# Each column whose header is a date holds the figures of that date; the other
# columns say whose they are.
dates_down <- function(raw, when, measures, series, call) {
  measure <- one_measure(measures, "dates across", call)
  header <- raw$header[[length(raw$header)]]
  readable <- rowSums(
    read_dates_cpp(as.character(header), 1969L, 1L)$outcome == 0L
  ) > 0
  dated <- readable & !header %in% series
  if (sum(dated) < 2) {
    abort_backfill(
      "layout", sprintf(
        paste(
          "%s has %s whose header is a date; `layout` \"dates across\"",
          "needs two at least."
        ),
        basename(raw$sources$source[[1]]), count_of(sum(dated), "column")
      ),
      i = sprintf("The headers are %s.", in_words(quoted(header))), call = call
    )
  }
  # A column between the dates whose header cannot be read holds figures too, of
  # a date that is not known.
  range <- range(which(dated))
  cells <- seq_along(header) >= range[[1]] & seq_along(header) <= range[[2]] &
    !header %in% series
  kept <- which(!cells)
  check_untaken(when, header[kept], "when", call)
  check_untaken(measure, header[kept], "measures", call)
  beside <- setdiff(header[kept], series)
  across(raw, kept, which(cells), measure_of = list(seq_len(sum(cells))),
         new = stats::setNames(list(header[cells]), when), measures = measure,
         when = when, series = series,
         notes = c(
           sprintf(
             "Dates stand across: %s.", cells_in_words(raw, sum(cells), "date")
           ),
           if (length(beside) > 0) {
             sprintf("Kept beside the figures: %s.", in_words(quoted(beside)))
           }
         ))
}

# Each column but those of the date is a series. One header row names the
# series; of two, one may name the measures.
series_down <- function(raw, when, measures, series, call) {
  header <- lapply(raw$header, function(row) replace(row, is.na(row), ""))
  columns <- length(header[[1]])
  upper <- seq_len(length(header) - 1)
  header[upper] <- lapply(header[upper], filled_across)
  is_when <- Reduce(`|`, lapply(raw$header, function(row) row %in% when))
  is_source <- header[[length(header)]] %in% raw$series
  if (sum(is_when) != length(when)) {
    check_columns(
      when, stats::setNames(vector("list", columns), header[[length(header)]]),
      basename(raw$sources$source[[1]]), "when", call
    )
  }
  names_measures <- vapply(
    header, function(row) all(names(plain_measures(measures)) %in% row), NA
  ) & length(header) > 1
  measure_row <- which(names_measures)
  if (length(measure_row) == 0) {
    one_measure(measures, "series across", call)
  }
  of_series <- setdiff(seq_along(header), measure_row[1])
  if (length(series) != length(of_series)) {
    abort_backfill(
      "argument",
      sprintf("`series` gives %s; the header has %s that tell series apart.",
              count_of(length(series), "name"), count_of(
                length(of_series), "row"
              )),
      ">" = paste(
        "Give one name for each such row: what stands in it, such as",
        "\"species\"."
      ),
      call = call
    )
  }
  used <- which(!is_when & !is_source)
  left <- character()
  if (length(measure_row) > 0) {
    known <- header[[measure_row[1]]][used] %in% names(measures)
    left <- unique(header[[measure_row[1]]][used][!known])
    used <- used[known]
  }
  key <- vctrs::new_data_frame(
    stats::setNames(lapply(header[of_series], `[`, used), series)
  )
  id <- as.integer(vctrs::vec_group_id(key))
  wanted <- names(plain_measures(measures))
  measure_of <- lapply(wanted, function(name) {
    here <- if (length(measure_row) > 0) {
      used[header[[measure_row[1]]][used] == name]
    } else {
      used
    }
    columns <- stats::setNames(here, id[match(here, used)])
    if (anyDuplicated(names(columns))) {
      twice <- header[[of_series[1]]][here[duplicated(names(columns))][1]]
      abort_backfill(
        "column",
        sprintf("Two columns have the same header, %s.", quoted(twice)),
        call = call
      )
    }
    unname(match(columns[as.character(seq_len(max(id, 0)))], used))
  })
  if (length(used) == 0) {
    abort_backfill("layout", "There is no column beside the date.", call = call)
  }
  for (name in c(series, wanted)) {
    check_untaken(name, c(when, raw$series), "series", call)
  }
  names(raw$data)[is_when] <- when[
    match(header_of(raw$header, which(is_when), when), when)
  ]
  across(
    raw, which(is_when | is_source), used, measure_of,
    new = as.list(vctrs::vec_unique(key)), measures = wanted,
    when = unname_single(when), series = c(series, raw$series),
    notes = c(
      sprintf(
        "Series stand across: %s.",
        cells_in_words(raw, max(id), "series", "series")
      ),
      if (length(left) > 0) sprintf(
        "Columns left out, as `measures` does not name them: %s.",
        in_words(quoted(left))
      )
    )
  )
}

header_of <- function(header, columns, when) {
  vapply(columns, function(column) {
    names <- vapply(header, `[[`, "", column)
    names[names %in% when][[1]]
  }, "")
}

cells_in_words <- function(raw, count, ...) {
  sprintf(
    "%s by %s, each cell a row of its own", count_of(raw$rows, "line"),
    count_of(count, ...)
  )
}

# Puts the cells of wide columns below each other: `kept` columns are repeated,
# `new` ones made of the header, one value per block of rows; `measure_of` says
# for each measure which of the `cells` columns it takes in each block, NA for
# none.
across <- function(
  raw, kept, cells, measure_of, new, measures, when, series, notes
) {
  rows <- raw$rows
  blocks <- length(measure_of[[1]])
  data <- c(
    lapply(raw$data[kept], rep, times = blocks),
    lapply(new, rep, each = rows),
    stats::setNames(lapply(measure_of, function(which) {
      stack_columns(lapply(which, function(k) {
        if (is.na(k)) {
          rep(NA, rows)
        } else {
          raw$data[[cells[[k]]]]
        }
      }))
    }), measures)
  )
  of_row <- function(rows_down) (rows_down - 1L) %% rows + 1L
  header <- raw$header[[length(raw$header)]]
  at <- raw$at
  raw$column_of <- function(rows_down, column) {
    cell <- do.call(rbind, measure_of)[
      cbind(match(column, measures), (rows_down - 1L) %/% rows + 1L)
    ]
    column[!is.na(cell)] <- header[cells[cell[!is.na(cell)]]]
    column
  }
  as_text <- raw$as_text
  raw$as_text <- if (!is.null(as_text)) function(columns) {
    lapply(match(columns, measures), function(k) {
      stack_columns(lapply(measure_of[[k]], function(c) {
        if (is.na(c)) {
          rep(NA, rows)
        } else {
          as_text(cells[[c]])[[1]]
        }
      }))
    })
  }
  raw$sources$rows <- raw$sources$rows * blocks
  raw$rejected <- vctrs::vec_rep(raw$rejected, blocks)
  raw$data <- data
  raw$rows <- rows * blocks
  raw$at <- function(rows_down) at(of_row(rows_down))
  raw$notes <- c(raw$notes, notes)
  with_roles(raw, when, series)
}

# Columns of one type stay it; else their texts are put together.
stack_columns <- function(columns) {
  figures <- vapply(columns, function(x) {
    is.numeric(x) && !is.object(x) || is.logical(x) && all(is.na(x))
  }, NA)
  if (all(figures)) {
    return(unlist(lapply(columns, as.double), use.names = FALSE))
  }
  unlist(
    lapply(columns, function(x) {
      if (is.double(x) && !is.object(x)) {
        exact_figures(x)
      } else {
        as.character(x)
      }
    }),
    use.names = FALSE
  )
}

exact_figures <- function(x) ifelse(is.na(x), NA, sprintf("%.15g", x))

one_measure <- function(measures, layout, call) {
  if (length(measures) != 1) {
    abort_backfill(
      "argument",
      sprintf("`measures` names %s; with `layout` \"%s\" every cell is of one.",
              in_words(names(measures)), layout),
      ">" = paste(
        "Name the one measure that the cells hold; with two header rows,",
        "set `header_rows` to 2."
      ),
      call = call
    )
  }
  names(measures)
}

check_untaken <- function(name, taken, argument, call) {
  if (name %in% taken) {
    abort_backfill(
      "argument",
      sprintf(
        "`%s` gives the new name %s, which a column has already.", argument,
        quoted(name)
      ),
      call = call
    )
  }
}
