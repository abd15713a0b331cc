# Delimited text. A regular file is read by fread() in one go; one with ragged
# rows, blank lines or line breaks in quotes is cut with care first, and what
# does not fit is set aside.

read_delimited <- function(file, form, scratch, call) {
  bytes <- count_bytes_cpp(file$path, form$quote)
  if (bytes[["zeros"]] > 0) {
    abort_backfill(
      "file",
      sprintf("%s is not a text file: it holds zero bytes.", file$shown),
      i = paste(
        "A delimited file in UTF-8 is expected, or one whose `encoding` is",
        "declared."
      ),
      call = call
    )
  }
  delimiter <- form$delimiter %||% find_delimiter(file$path, form)
  head <- first_records_cpp(
    file$path, delimiter, form$quote, form$skip, form$header_rows
  )
  if (length(head$fields) < form$header_rows) {
    abort_backfill(
      "file",
      sprintf("%s has no header behind line %d.", file$shown, form$skip),
      call = call
    )
  }
  check_utf8(head$fields, file, call)
  header <- header_names(head$fields)
  width <- length(header[[1]])
  check_title(file, delimiter, form, call)
  from <- head$next_line - 1
  cut <- list(
    file = file, bytes = bytes, delimiter = delimiter, quote = form$quote,
    from = from, width = width
  )
  rows <- bytes[["lines"]] - from
  text <- text_columns(header[[length(header)]], form)
  found <- if (rows > 0) read_regular(
    cut, rows, text, dates_to_leave(header[[length(header)]], cut, form)
  ) else
    list(data = rep(list(character()), width), rows = 0L, line = identity)
  if (is.null(found)) {
    found <- read_careful(cut, text, scratch, call)
  }
  without_blank(new_raw(
    mend_columns(found, text, cut, call), found$rows, header, file$shown,
    found$line,
    found$rejected %||% new_rejected(), found$blank %||%
      0, as_text = function(columns) {
      # Columns of a wide layout are named by their numbers, as headers may
      # repeat.
      as.list(found$again(if (is.numeric(columns)) {
        columns
      } else {
        match(columns, header[[length(header)]])
      }))
    }
  ))
}

# The mark that cuts the first lines into most fields, the same number in each.
find_delimiter <- function(path, form) {
  marks <- c(",", ";", "\t", "|")
  fields <- vapply(marks, function(mark) {
    found <- lengths(
      first_records_cpp(path, mark, form$quote, form$skip, 20L)$fields
    )
    if (length(found) == 0 || found[[1]] < 2) {
      0
    } else {
      found[[1]] * mean(found == found[[1]])
    }
  }, 0)
  marks[[which.max(fields)]]
}

# Headers without blanks at their end, where a delimiter too many ends the line;
# a blank name gets a number.
header_names <- function(fields) {
  width <- max(lengths(fields))
  header <- lapply(
    fields, function(row) trimws(c(row, rep("", width - length(row))))
  )
  if (width > 1 && all(vapply(header, function(row) row[[width]] == "", NA))) {
    header <- lapply(header, `[`, -width)
  }
  last <- header[[length(header)]]
  if (length(header) == 1) {
    last[last == ""] <- paste0("V", seq_along(last))[last == ""]
  }
  header[[length(header)]] <- last
  header
}

# A title above the header has fewer fields than the rows have.
check_title <- function(file, delimiter, form, call) {
  near <- first_records_cpp(
    file$path, delimiter, form$quote, form$skip, form$header_rows + 12L
  )
  filled <- lapply(
    near$fields, function(row) grepl("[^ \t]", row, useBytes = TRUE)
  )
  stop_title(filled, near$line, form$header_rows, file, call)
}

# `filled` says of the first lines which of their fields are. Of several header
# rows the upper one may be filled once for several columns, but it does not
# start with its only name.
stop_title <- function(filled, line, header_rows, file, call) {
  titled <- identical(which(filled[[1]]), 1L)
  looked_at <- seq(if (titled) 1 else header_rows, length(line))
  counted <- vapply(filled[looked_at], sum, 0L)
  line <- line[looked_at]
  counts <- table(counted[-1])
  most <- if (length(counts) > 0) {
    max(as.integer(names(counts)[counts == max(counts)]))
  } else {
    0
  }
  if (counted[[1]] * 2 <= most && most > 1) {
    header <- which(counted >= most)[[1]]
    abort_backfill(
      c("title", "file"),
      sprintf(
        paste(
          "Line %d of %s has %s where lines below it have %d: it looks like",
          "a title above the header."
        ),
        line[[1]], basename(file$shown), count_of(counted[[1]], "filled field"),
        most
      ),
      ">" = sprintf(
        paste(
          "Say how many lines stand above the header: `skip` is %d where",
          "line %d is the header."
        ),
        line[[header]] - 1L, line[[header]]
      ),
      ">" = paste(
        "If it names several columns at once, above a second row of names,",
        "`header_rows` is 2."
      ),
      call = call
    )
  }
}

# list(data, line, again), or NULL where the file is not as regular as it must
# be: one line per row, each with all of its fields.
read_regular <- function(cut, rows, text, when) {
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
      read = function(pivot_year, year_start, order, spans) {
        read <- with_bar("Reading dates", function(report) {
          date_field_cpp(
            cut$file$path, cut$from, cut$delimiter, when, rows, pivot_year,
            year_start, order, spans, report
          )
        })
        if (!read$whole) { # as each row had all fields
          abort_backfill(
            "file",
            sprintf(
              "%s was changed while it was read.", basename(cut$file$shown)
            ),
            ">" = "Read it again once it is complete.", call = NULL
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

read_careful <- function(cut, text, scratch, call) {
  clean <- tempfile(tmpdir = scratch)
  found <- with_bar("Cutting lines", function(report) {
    careful_records_cpp(
      cut$file$path, clean, cut$delimiter, cut$quote, as.integer(cut$from),
      cut$width, report
    )
  })
  if (found$open_quote > 0) {
    abort_backfill(
      "file",
      sprintf("%s has a quote that is opened on line %d and never closed.",
              basename(cut$file$shown), found$open_quote),
      ">" = paste(
        "Close it, or say `quote` is \"\" where quotation marks are letters",
        "like any other."
      ),
      call = call
    )
  }
  bad <- length(found$bad_line)
  rows <- length(found$line)
  if (bad > 0 && bad >= rows) {
    abort_backfill(
      "file",
      sprintf(
        paste(
          "%s has a header of %s; line %d has %d, and so it is with %d of",
          "its %d lines."
        ),
        basename(cut$file$shown), count_of(cut$width, "field"),
        found$bad_line[[1]], found$bad_fields[[1]], bad, bad + rows
      ),
      ">" = paste(
        "Give every line as many fields as the header has, and quote fields",
        "that hold the delimiter."
      ),
      call = call
    )
  }
  data <- if (rows == 0) rep(list(character()), cut$width) else
    fread_quietly(
      clean, sep = "\x1f", quote = "",
      colClasses = if (length(text) > 0) list(character = text)
    )
  if (length(data) != cut$width || length(data[[1]]) != rows) {
    abort_backfill(
      "file",
      sprintf(
        "%s cannot be read as a delimited file.", basename(cut$file$shown)
      ),
      i = sprintf(
        "Of its %d rows %d could be cut into fields.", rows, length(data[[1]])
      ),
      call = call
    )
  }
  list(
    data = as.list(data), rows = rows, line = function(rows) found$line[rows],
    again = function(which) {
      fread_quietly(
        clean, sep = "\x1f", quote = "", select = which,
        colClasses = "character"
      )
    },
    rejected = new_rejected(
      rep(cut$file$shown, bad), found$bad_line, rep("", bad), iconv(
        found$bad_text, "UTF-8", "UTF-8", sub = "?"
      ),
      sprintf(
        "%s where the header has %d",
        vapply(found$bad_fields, count_of, "", "field"), rep(cut$width, bad)
      )
    ),
    blank = found$blank, careful = TRUE
  )
}

# NULL where fread() has anything to say: its warnings speak of lines that it
# left out or changed.
fread_quietly <- function(path, ...) {
  said <- FALSE
  data <- tryCatch(
    withCallingHandlers(
      data.table::fread(
        file = path, header = FALSE, fill = FALSE, data.table = FALSE,
        na.strings = "", dec = ".",
        integer64 = "double", strip.white = TRUE, encoding = "UTF-8",
        blank.lines.skip = FALSE,
        showProgress = bars_wanted(), verbose = FALSE, ...
      ),
      warning = function(cnd) {
        said <<- TRUE
        rlang::cnd_muffle(cnd)
      }
    ),
    error = function(cnd) NULL
  )
  if (said) NULL else data
}

# Columns that are no figures are read as text, so that the codes 007 and 7 stay
# apart; so are times in a zone, of which the reader of files knows nothing.
text_columns <- function(names, form) {
  figures <- c(form$measures, if (form$zone == "UTC") form$when)
  if (form$layout == "rows") {
    which(!names %in% figures)
  } else {
    which(names %in% form$series)
  }
}

# Text columns checked for their encoding, with doubled quotes made single,
# which the fast reader leaves; those of `text` as numbers where nothing is lost
# by it; and dates as R's own.
mend_columns <- function(found, text, cut, call) {
  lapply(seq_along(found$data), function(i) {
    column <- found$data[[i]]
    if (inherits(column, "IDate")) {
      # The reader of files takes 31-04-09 for a day of the year 31.
      return(if (turn_into_dates_cpp(column)) column else found$again(i)[[1]])
    }
    if (!is.character(column)) {
      return(column)
    }
    if (!cut$bytes[["ascii"]]) {
      check_utf8(list(distinct_texts_cpp(column)$text), cut$file, call)
    }
    if (isTRUE(found$careful)) {
      column <- gsub("\x1e", "\n", column, fixed = TRUE)
    }
    if (cut$bytes[["quoted"]] && is.null(found$careful)) {
      column <- with_single_quotes(column, cut$quote)
    }
    if (i %in% text) numbers_or_text(column) else column
  })
}

# A quotation mark within quotes is doubled.
with_single_quotes <- function(column, quote) {
  doubled <- strrep(quote, 2)
  if (any(grepl(doubled, column, fixed = TRUE))) {
    column <- gsub(doubled, quote, column, fixed = TRUE)
  }
  column
}

numbers_or_text <- function(column) {
  figures <- function(x) {
    all(
      is.na(x) | grepl("^-?(0|[1-9][0-9]{0,14})([.][0-9]+)?$", x)
    )
  }
  if (!figures(first_few(column, 100))) {
    return(column)
  }
  distinct <- distinct_texts_cpp(column)
  if (!figures(distinct$text)) {
    return(column)
  }
  number <- as.numeric(distinct$text)
  whole <- !any(grepl(".", distinct$text, fixed = TRUE)) && all(
    abs(number) < 2^31, na.rm = TRUE
  )
  (if (whole) as.integer(number) else number)[distinct$at]
}

check_utf8 <- function(texts, file, call) {
  for (text in texts) {
    odd <- which(!validUTF8(text))
    if (length(odd) > 0) {
      abort_backfill(
        "file",
        sprintf("%s is not in UTF-8: it holds %s.", basename(file$shown),
                quoted(iconv(text[[odd[[1]]]], "latin1", "UTF-8"))),
        ">" = paste(
          "Say in which encoding it is: `encoding`, such as \"latin1\" or",
          "\"windows-1252\"."
        ),
        call = call
      )
    }
  }
}

# Rows of delimiters alone, as spreadsheets write them behind the last row, are
# blank lines.
without_blank <- function(raw) {
  if (
    raw$rows == 0 || any(vapply(
      raw$data, inherits, NA, "backfill_field"
    )) || !any_blank_row(raw$data)
  ) {
    return(raw)
  }
  kept <- which(!Reduce(`&`, lapply(raw$data, is.na)))
  at <- raw$at
  as_text <- raw$as_text
  blank <- raw$rows - length(kept)
  raw$data <- lapply(raw$data, `[`, kept)
  raw$rows <- length(kept)
  raw$at <- function(rows) at(kept[rows])
  raw$as_text <- function(columns) lapply(as_text(columns), `[`, kept)
  raw$blank <- raw$blank + blank
  raw$sources$rows <- raw$sources$rows - blank
  raw
}
