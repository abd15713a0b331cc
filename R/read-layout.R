# Layouts: one record per row, or dates or series across. The wide ones become
# one record per row here.

layouts <- c("rows", "dates across", "series across")

# `raw` with one record per row, and the columns that have the roles `when` and
# `series`.
lay_out <- function(raw, layout, when, measures, series) {
  if (!is.null(series) && !names_columns(series)) {
    abort_backfill(
      "argument", "`series` is {value_in_words(series)}; it must name columns."
    )
  }
  if (layout == "dates across") {
    return(dates_down(raw, when %||% "date", measures, series))
  }
  if (!names_columns(when)) {
    abort_backfill(
      "argument", "`when` is {value_in_words(when)}.",
      i = "It must name the column with the date, or several with its parts."
    )
  }
  if (layout == "series across") {
    # A column of the files' names stands beside the series.
    named <- setdiff(series, raw$series)
    named <- if (length(named) > 0) named else "series"
    return(series_down(raw, when, measures, named))
  }
  if (length(raw$header) > 1) {
    abort_backfill(
      "argument",
      "`header_rows` is above 1, which `layout` \"rows\" has no use for.",
      ">" = "Say `layout` is \"series across\" where two header rows name",
      "measures and series."
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
dates_down <- function(raw, when, measures, series) {
  measure <- one_measure(measures, "dates across")
  header <- raw$header[[length(raw$header)]]
  found <- dates_of_header(header, when)
  dated <- found$cells & !header %in% series
  if (sum(dated) < 2) {
    abort_backfill(
      "layout",
      "{basename(raw$sources$source[[1]])} has",
      "{count_of(sum(dated), 'column')} whose header is a date, or the part of",
      "one that is asked for; `layout` \"dates across\" needs two at least.",
      i = "The headers are {in_words(quoted(header))}."
    )
  }
  # A column between the dates whose header cannot be read holds figures too, of
  # a date that is not known.
  range <- range(which(dated))
  cells <- seq_along(header) >= range[[1]] & seq_along(header) <= range[[2]] &
    !header %in% series
  kept <- which(!cells)
  check_untaken(found$name, header[kept], "when")
  check_untaken(measure, header[kept], "measures")
  beside <- setdiff(header[kept], c(series, found$when))
  raw$notes <- c(
    raw$notes,
    sprintf("Dates stand across: %s.", cells_in_words(raw, sum(cells), "date")),
    if (length(beside) > 0) {
      sprintf("Kept beside the figures: %s.", in_words(quoted(beside)))
    }
  )
  stacked <- across(raw, kept, new_blocks(
    which(cells), list(seq_len(sum(cells))),
    stats::setNames(list(header[cells]), found$name), measure
  ))
  with_roles(stacked, unname_single(found$when), series)
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
across <- function(raw, kept, blocks) {
  rows <- raw$rows
  count <- length(blocks$measure_of[[1]])
  # The columns of each measure, one under the other.
  stacked <- function(column) {
    lapply(blocks$measure_of, function(which) {
      stack_columns(lapply(which, function(k) {
        if (is.na(k)) rep(NA, rows) else column(blocks$cells[[k]])
      }))
    })
  }
  header <- raw$header[[length(raw$header)]]
  at <- raw$at
  raw$column_of <- function(rows_down, column) {
    cell <- do.call(rbind, blocks$measure_of)[
      cbind(match(column, blocks$measures), (rows_down - 1L) %/% rows + 1L)
    ]
    column[!is.na(cell)] <- header[blocks$cells[cell[!is.na(cell)]]]
    column
  }
  as_text <- raw$as_text
  raw$as_text <- if (!is.null(as_text)) function(columns) {
    stacked(function(cell) as_text(cell)[[1]])[match(columns, blocks$measures)]
  }
  data <- raw$data
  raw$data <- c(
    lapply(data[kept], rep, times = count),
    lapply(blocks$new, rep, each = rows),
    stats::setNames(stacked(function(cell) data[[cell]]), blocks$measures)
  )
  raw$sources$rows <- raw$sources$rows * count
  raw$rejected <- vctrs::vec_rep(raw$rejected, count)
  raw$rows <- rows * count
  raw$at <- function(rows_down) at((rows_down - 1L) %% rows + 1L)
  raw
}

# How columns that stand across become rows: the columns in use (`cells`), for
# each of the `measures` which of them holds it in each block (`measure_of`, NA
# for none), and the `new` columns, with a value per block.
new_blocks <- function(cells, measure_of, new, measures) {
  list(cells = cells, measure_of = measure_of, new = new, measures = measures)
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

one_measure <- function(measures, layout) {
  if (length(measures) != 1) {
    abort_backfill(
      "argument",
      "`measures` names {in_words(names(measures))}; with `layout`",
      "\"{layout}\" every cell is of one.",
      ">" = "Name the one measure that the cells hold; with two header rows,",
      "set `header_rows` to 2."
    )
  }
  names(measures)
}

check_untaken <- function(name, taken, argument) {
  if (name %in% taken) {
    abort_backfill(
      "argument",
      "`{argument}` gives the new name {quoted(name)}, which a column has",
      "already."
    )
  }
}
