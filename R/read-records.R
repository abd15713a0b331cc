#' Read dated records from a file
#'
#' Reads a delimited text file (CSV, TSV; the delimiter is found) with one record per row and a header. Nothing is
#' dropped in silence: a row whose date cannot be read or whose measure is not a number is set aside with its line, its
#' text and the reason (see [set_aside()]); a blank measure is kept as missing and counted (see [intake()]).
#'
#' Dates and times are those of ISO 8601: `2031-04-09`, `2031-04-09 07:30`, `2031-04-09T07:30:15Z`, `2031-W15`,
#' `2031-04`, `2031`, and `2031-Q2` for quarters. A column of dates becomes a `Date`, the first day for longer periods;
#' a column with times becomes a `POSIXct` in `zone`. Times without an offset are those that a clock in `zone` shows.
#' The hour that daylight saving skips never was: such rows are set aside. Of the hour that it repeats, the first row of
#' a series with a given time is taken as the first hour, any further one as the second.
#'
#' @param file Path of the file.
#' @param when Name of the column with the date or time.
#' @param measures The columns with the figures and their kinds: `c(north = "flow")`, or with units
#'   `list(north = measure("flow", unit = "boardings"))`. See [measure()].
#' @param series Names of the columns that tell one series from another, such as `"island"`; `NULL` for none.
#' @param zone Zone of the tz database whose clock the times show, such as `"WET"`. The default `"UTC"` has no daylight
#'   saving. It says nothing where the column holds dates only.
#' @return A records table: a tibble of the rows used with all columns of the file, `when` as `Date` or `POSIXct`, the
#'   measures as doubles.
#' @section Errors: `backfill_error_file` (no such file, empty, not delimited text), `backfill_error_column` (a column
#'   that the file has not), `backfill_error_when` (`when` holds no ISO 8601 dates in half of its rows or more),
#'   `backfill_error_number` (the same of numbers in a measure), `backfill_error_kind`, `backfill_error_zone`,
#'   `backfill_error_argument`.
#' @seealso [as_records()] for a data frame, [roll_up()] for the next step.
#' @examples
#' read_records(demo_file("guest-nights.csv"),
#'   when = "month", series = "island",
#'   measures = list(guest_nights = measure("flow", unit = "guest nights"))
#' )
#' @export
read_records <- function(file, when, measures, series = NULL, zone = "UTC") {
  check_file(file)
  header <- read_header(file)
  measures <- check_roles(header, when, measures, series, zone, where = basename(file))
  data <- read_text(file, call = rlang::current_env(), sep = delimiter(file, header), header = TRUE, fill = TRUE,
                    colClasses = list(character = when), showProgress = interactive())
  check_encoding(data, file)
  line_of <- line_counter(data)
  data <- without_extra(data, header, file, line_of)
  # A blank line is no row.
  undated <- which(is.na(data[[when]]))
  blank <- undated[Reduce(`&`, lapply(as.list(data), function(column) is.na(column[undated])))]
  if (length(blank) > 0) {
    lines <- line_of(seq_len(nrow(data))[-blank])
    line_of <- function(rows) lines[rows]
    data <- vctrs::vec_slice(data, -blank)
  }
  # The whole path, so that the file is known again from another working directory.
  build_records(data, when, measures, series, zone, source = normalizePath(file), line_of = line_of)
}

check_file <- function(file, call = caller_env()) {
  stop_file <- function(what, ...) abort_backfill("file", what, ..., call = call)
  if (!rlang::is_string(file)) {
    stop_file(sprintf("`file` is %s; it must be the path of one file.", value_in_words(file)))
  }
  if (!file.exists(file)) {
    stop_file(sprintf("There is no file %s.", file), i = sprintf("The working directory is %s.", getwd()))
  }
  if (dir.exists(file)) {
    stop_file(sprintf("%s is a folder, not a file.", file))
  }
  if (file.access(file, 4) != 0) {
    stop_file(sprintf("%s cannot be read: its permissions forbid it.", file))
  }
  if (file.size(file) == 0) {
    stop_file(sprintf("%s is empty.", file), i = "A delimited file with a header line is expected.")
  }
  start <- readBin(file, "raw", n = 65536)
  if (any(start == 0)) {
    stop_file(sprintf("%s is not a text file: it holds zero bytes.", file),
              i = "A delimited file (CSV, TSV) in UTF-8 is expected.")
  }
}

# The file's columns without rows. The first line is read as data, for of a header the reader makes as many names as it
# finds fields further down.
read_header <- function(file, call = caller_env()) {
  first <- read_text(file, call = call, header = FALSE, nrows = 1, colClasses = "character", fill = FALSE)
  names <- vapply(first, function(column) column[[1]], "")
  names[is.na(names)] <- paste0("V", seq_along(names))[is.na(names)]
  stats::setNames(rep(list(character()), length(names)), names)
}

# The mark that cuts the header line into its names. Where names hold blanks and rows are of uneven length, the reader
# by itself would take the blank for the delimiter.
delimiter <- function(file, header) {
  line <- gsub("\"[^\"]*\"", "", readLines(file, n = 1, warn = FALSE), useBytes = TRUE)
  marks <- c(",", ";", "\t", "|")
  count <- vapply(marks, function(mark) sum(charToRaw(line) == charToRaw(mark)), 0L)
  fits <- marks[count == length(header) - 1]
  if (length(fits) == 1 && length(header) > 1) fits else "auto"
}

# The file by fread(), whose warnings speak of lines that it would leave out or change.
read_text <- function(file, call, ...) {
  read <- tryCatch(
    data.table::fread(
      file = file, skip = 0, data.table = FALSE, check.names = FALSE, na.strings = "", dec = ".",
      integer64 = "double", keepLeadingZeros = TRUE, strip.white = TRUE, encoding = "UTF-8", ...
    ),
    warning = identity, error = identity
  )
  if (inherits(read, "condition")) {
    # The reader's own words, but for those on arguments that are ours.
    said <- sub("\\s*<<.*", "", conditionMessage(read))
    abort_backfill(
      "file",
      sprintf("%s cannot be read as a delimited file.", basename(file)),
      i = if (!grepl("colClasses", said)) said,
      ">" = "Give every line as many fields as the header has, and close every quote.",
      call = call
    )
  }
  read
}

# Lines with more fields than the header make columns without a name. Where a delimiter too many ends the lines, these
# hold nothing and are left out; else they are an error.
without_extra <- function(data, header, file, line_of, call = caller_env()) {
  extra <- seq_along(data) > length(header)
  row <- which(rowSums(!is.na(data[extra])) > 0)
  if (length(row) > 0) {
    abort_backfill("file", sprintf("%s has a header of %d fields; line %d has more.", basename(file), length(header),
                                   line_of(row[[1]])),
                   ">" = "Give every line as many fields as the header has, and quote fields that hold the delimiter.",
                   call = call)
  }
  data[!extra]
}

check_encoding <- function(data, file, call = caller_env()) {
  for (text in c(list(names(data)), Filter(is.character, as.list(data)))) {
    odd <- which(!validUTF8(text))
    if (length(odd) > 0) {
      shown <- encodeString(iconv(text[[odd[[1]]]], "latin1", "UTF-8"), quote = "\"")
      abort_backfill("file", sprintf("%s is not in UTF-8: it holds %s.", basename(file), shown),
                     ">" = "Convert it, for instance with iconv -f ISO-8859-1 -t UTF-8.", call = call)
    }
  }
}

# Gives the line of the file on which a row starts. Line breaks inside quoted fields move the rows after them down.
line_counter <- function(data) {
  force(data)
  function(rows) {
    breaks <- integer(nrow(data))
    for (column in Filter(is.character, as.list(data))) {
      inside <- grep("\n", column, fixed = TRUE)
      breaks[inside] <- breaks[inside] + nchar(gsub("[^\n]", "", column[inside]))
    }
    rows + 1L + c(0L, cumsum(breaks))[rows]
  }
}
