# Delimited text. A regular file is read by fread() in one go; one with ragged
# rows, blank lines or line breaks in quotes is cut with care first, and what
# does not fit is set aside.

read_delimited <- function(file, form, scratch) {
  bytes <- count_bytes_cpp(file$path, form$quote)
  check_no_zeros(bytes, file)
  delimiter <- form$delimiter %||% find_delimiter(file$path, form)
  head <- header_cut(file, delimiter, form)
  header <- head$names
  names <- header[[length(header)]]
  check_title(file, delimiter, form)
  cut <- new_cut(
    file, bytes, delimiter, form$quote, head$lines, length(names)
  )
  text <- text_columns(names, form)
  found <- read_regular(cut, text,
  dates_to_leave(names, cut, form)) %||% read_careful(cut, text, scratch)
  # Columns of a wide layout are named by their numbers, as headers may repeat.
  as_text <- function(columns) {
    at <- if (is.numeric(columns)) columns else match(columns, names)
    as.list(found$again(at))
  }
  without_blank(new_raw(
    mend_columns(found, text, which(names %in% form$when), cut), found$rows,
    header, file$shown, found$line, found$rejected %||% new_rejected(),
    found$blank %||% 0, as_text = as_text
  ))
}

# A text file about to be cut into fields: what is known of its bytes, how it
# parts and quotes them, the lines above its rows and how many fields it has.
new_cut <- function(file, bytes, delimiter, quote, from, width) {
  list(
    file = file, bytes = bytes, delimiter = delimiter, quote = quote,
    from = from, width = width
  )
}

check_no_zeros <- function(bytes, file) {
  if (bytes[["zeros"]] > 0) {
    abort_backfill(
      "file", "{file$shown} is not a text file: it holds zero bytes.",
      i = "A delimited file in UTF-8 is expected, or one whose `encoding` is",
      "declared."
    )
  }
}

# The mark that cuts the first lines into most fields, the same number in each,
# or in most where a title stands above them.
find_delimiter <- function(path, form) {
  marks <- c(",", ";", "\t", "|")
  found <- lapply(marks, function(mark) {
    lengths(first_records_cpp(path, mark, form$quote, form$skip, 20L)$fields)
  })
  whole <- vapply(found, function(fields) {
    if (length(unique(fields)) == 1 && fields[[1]] > 1) fields[[1]] else 0
  }, 0)
  if (any(whole > 0)) {
    return(marks[[which.max(whole)]])
  }
  marks[[which.max(vapply(found, evenness, 0))]]
}

# How many fields lines have, less where they differ, the first one above all.
evenness <- function(fields) {
  several <- unique(fields[fields > 1])
  share <- vapply(several, function(one) mean(fields == one), 0)
  max(c(0, several * share^2 * (1 + (several == fields[1]) / 4)))
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
# by it; and dates as R's own. A month behind the point of its year loses its
# last nought as a number: those among the columns of `when` stay text.
mend_columns <- function(found, text, when, cut) {
  lapply(seq_along(found$data), function(i) {
    column <- found$data[[i]]
    if (inherits(column, "IDate")) {
      # The reader of files takes 31-04-09 for a day of the year 31.
      return(if (turn_into_dates_cpp(column)) column else found$again(i)[[1]])
    }
    dated <- i %in% when
    if (!is.character(column)) {
      months <- dated && may_be_months(column)
      return(if (months) found$again(i)[[1]] else column)
    }
    column <- mend_text(column, found, cut)
    number <- if (i %in% text) numbers_or_text(column) else column
    if (dated && may_be_months(number)) column else number
  })
}

mend_text <- function(column, found, cut) {
  if (!cut$bytes[["ascii"]]) {
    check_utf8(list(distinct_texts_cpp(column)$text), cut$file)
  }
  if (isTRUE(found$careful)) {
    column <- gsub("\x1e", "\n", column, fixed = TRUE)
  }
  if (cut$bytes[["quoted"]] && is.null(found$careful)) {
    column <- with_single_quotes(column, cut$quote)
  }
  column
}

# Whether figures may be years with a month behind the point, such as 2031.10.
may_be_months <- function(x) {
  is.double(x) && !is.object(x) &&
    any(x != floor(x) & x > 1500 & x < 2500, na.rm = TRUE)
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

check_utf8 <- function(texts, file) {
  for (text in texts) {
    odd <- which(!validUTF8(text))
    if (length(odd) > 0) {
      abort_backfill(
        "file",
        "{basename(file$shown)} is not in UTF-8: it holds",
        "{quoted(iconv(text[[odd[[1]]]], 'latin1', 'UTF-8'))}.",
        ">" = "Say in which encoding it is: `encoding`, such as \"latin1\" or",
        "\"windows-1252\"."
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
