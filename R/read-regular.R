# Text whose lines all have the fields of its header: read at once, its dates
# apart.

# list(data, line, again), or NULL where the file is not as regular as it must
# be: one line per row, each with all of its fields.
read_regular <- function(cut, text, when) {
  rows <- cut$bytes[["lines"]] - cut$from
  if (rows <= 0) {
    none <- rep(list(character()), cut$width)
    return(list(data = none, rows = 0L, line = identity))
  }
  read <- function(...) {
    fread_quietly(
      cut$file$path, skip = cut$from, sep = cut$delimiter, quote = cut$quote,
      ...
    )
  }
  again <- function(which) read(select = which, colClasses = "character")
  text <- setdiff(text, when)
  # The kinds of the others are counted without the column of dates.
  data <- read(
    drop = if (length(when) > 0) when,
    colClasses = if (length(text) > 0) list(character = text)
  )
  if (
    is.null(data) || length(data) != cut$width - length(when) ||
      length(data[[1]]) != rows
  ) {
    return(NULL)
  }
  if (length(when) > 0) {
    if (any_blank_row(data)) {
      return(NULL)
    }
    field <- date_field(cut, when, rows)
    data <- append(as.list(data), list(field), when - 1L)
  }
  list(
    data = data, rows = as.integer(rows), line = function(rows) rows + cut$from,
    again = again
  )
}

# The column of dates where it can be left in the file, to be read from there
# without a text for each row: a single one, in a file without quotes, that the
# reader of files does not know as dates, or whose zone it does not know.
dates_to_leave <- function(names, cut, form) {
  column <- which(names %in% form$when)
  if (length(column) != 1 || !holds_one_date(form) || !is_plain(cut)) {
    return(integer())
  }
  first <- fread_quietly(
    cut$file$path, skip = cut$from, sep = cut$delimiter, quote = cut$quote,
    select = column, nrows = 100
  )[[1]]
  known <- form$zone == "UTC" && inherits(first, c("Date", "POSIXct"))
  if (known || is.null(first) || is.numeric(first)) integer() else column
}

# One file with the date in one column of each row.
holds_one_date <- function(form) {
  form$layout == "rows" && length(form$when) == 1 &&
    all(names(form$when) == "") && isTRUE(form$single)
}

# Several columns of ASCII without a quotation mark.
is_plain <- function(cut) {
  cut$width > 1 && !cut$bytes[["quoted"]] && cut$bytes[["ascii"]] == 1
}

date_field <- function(cut, when, rows) {
  structure(
    list(
      read = function(pivot_year, year_start, order, spans, at_end) {
        read <- with_bar("Reading dates", function(report) {
          date_field_cpp(
            cut$file$path, cut$from, cut$delimiter, when, rows, pivot_year,
            year_start, order, spans, at_end, report
          )
        })
        if (!read$whole) { # as each row had all fields
          abort_backfill(
            "file", "{basename(cut$file$shown)} was changed while it was read.",
            ">" = "Read it again once it is complete."
          )
        }
        read
      },
      texts = function(wanted) {
        field_texts_cpp(
          cut$file$path, cut$from, cut$delimiter, when, rows, wanted
        )
      },
      rows = rows
    ),
    class = "backfill_field"
  )
}

any_blank_row <- function(data) {
  blank <- NULL
  # Texts first, which cost least to look at.
  for (column in as.list(data)[order(vapply(data, is.double, NA))]) {
    if (is.null(blank)) {
      # Not anyNA(), which makes a whole logical vector of a `Date`.
      figures <- typeof(column) %in% c("integer", "double")
      if (if (figures) all_finite_cpp(column, FALSE) else !anyNA(column)) {
        return(FALSE)
      }
      blank <- which(is.na(column))
    } else {
      blank <- blank[is.na(column[blank])]
    }
    if (length(blank) == 0) return(FALSE)
  }
  TRUE
}
