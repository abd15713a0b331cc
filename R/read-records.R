#' Read dated records from a file
#'
#' Reads dated records in nearly every layout and format in which analysts are
#' handed them. Nothing is dropped in silence: a row whose date cannot be read
#' or whose measure is not a number is set aside with its line, its text and the
#' reason (see [rows_set_aside()]); a missing value is kept and counted by what
#' stood there (see [account()]). What was found out about the file (the order
#' of its dates, its decimal mark) is said in the account.
#'
#' Where `measures` or `when` is not given, what is not given is found as
#' [inspect_file()] finds it and told in a message of class
#' `backfill_message_found`, with the call in full; what is given is never
#' overruled. It stops only where two readings give different figures.
#'
#' @section Formats: Which one a file has is seen from its first bytes.
#'
#' | format | read with | notes |
#' |---|---|---|
#' | delimited text (CSV, TSV) | data.table | delimiter found or declared; UTF-8, UTF-16 or a declared `encoding` |
#' | any of the texts, compressed by gzip | | a file that was cut short, or holds too much, is refused |
#' | workbook (`.xlsx`, `.xls`, `.ods`) | readxl, readODS | one `sheet`, or a `range` such as `"B3:F40"` |
#' | JSON, newline-delimited JSON | jsonlite | flat objects; `table` names the member of a document that holds them |
#' | Parquet | nanoparquet | integers from 2^53 on are rounded, and told |
#' | SQLite file, or any DBI connection | DBI, RSQLite | `table` is the name of a table or a `SELECT` |
#' | NetCDF grid (CF conventions) | ncdf4 | `cells`: area mean, one cell, or each |
#' | an `http://` or `https://` address of any of these | curl | up to 1 GiB, an hour, 60 seconds of near silence |
#'
#' @section Limits: A pipe or device that is named as a file is read to its end
#'   first. A compressed file or workbook may hold 200 times its own size, or
#'   256 MiB where that is more, and 16 GiB at most or as many bytes as the
#'   option `backfill.unpack_bytes` says. The option `backfill.fetch_seconds` is
#'   the time in which an address must be fetched. Readers of workbooks and
#'   Parquet run in a session of their own, so that a damaged file that brings
#'   one down is an error like any other; `backfill.reader_seconds` (1800) and
#'   `backfill.reader_bytes` (4 GiB and 50 times the size of the file) are their
#'   limits. A password in an address is used and never shown. A series column
#'   that is named like a column of results (`value`, `measure`, `index`) gets a
#'   `_` at the end of its name, and the account says so.
#'
#' @section Layouts: With `layout = "rows"` a row is a record. With
#'   `"dates across"` each column with a date as its header holds the figures of
#'   that date: `when` names the column of dates that is made (by default
#'   `"date"`), `measures` the one measure that the cells hold, and `series` the
#'   columns beside them that say whose they are. Of a date in parts one may
#'   stand across: with `when = c(year = "year", month = "month")`, where the
#'   file has a column `year` but no `month`, the headers are the months (or
#'   quarters, hours, weekdays and so on). With `"series across"` each column is
#'   a series: `series` names the column that is made of the headers. With
#'   `header_rows = 2` one of two header rows may hold names of measures, over
#'   or under those of the series; a name in the upper row stands over all
#'   columns up to the next name. In both wide layouts each cell counts as a
#'   row.
#'
#' @section Dates and times: Read are the forms of ISO 8601 (`2031-04-09`,
#'   `2031-04-09T07:30:15Z`, `2031-W15`, `2031-099`, `2031-04`, `2031`), dates
#'   in figures (`9/4/2031`, `09.04.31`, `4-9-2031`) or with the name of
#'   the month in English, German, French, Spanish, Italian, Dutch, Portuguese
#'   or Polish (`9 April 2031`, `Apr 9, 2031`), quarters (`2031-Q2`), fiscal
#'   years (`FY2031`, `2030/31`, `FY31 Q2`), times of day (`7:30`,
#'   `07:30:15.25`, `7:30 pm`), serial days of spreadsheets, and seconds or
#'   milliseconds since
#'   1970. In which order day, month and year stand is found from the whole
#'   column; where two orders fit every row it is an error that names both. A
#'   column of dates becomes a `Date` (whole days), the first day for longer
#'   periods; a column with times becomes a `POSIXct` in `zone`. Times without
#'   an offset are those that a clock in `zone` shows; one in the hour that
#'   daylight saving skips never was, and is set aside.
#'
#' @section Figures: Beside plain numbers these are read: thousands marks
#'   (`1,250`, `1 250`, `1'250`), a decimal comma, percent signs (`12.5%` is
#'   12.5), one currency sign, and brackets or a minus after figures below
#'   zero. Whether a comma parts thousands or decimals is found from all values;
#'   where both fit every one it is an error. `NA`, `n/a`, `..`, `-` and the
#'   like are missing values. A number is one only where `missing` says so.
#'
#' @param file Path of the file; several paths, or a pattern such as
#'   `"lines/*.csv"`, for files with the same columns; a folder, for all the
#'   `.parquet` files in it; an `http://` or `https://` address; or a DBI
#'   connection.
#' @param when Name of the column with the date or time. Where it stands in
#'   several, their names, each with the part it holds: `c(date = "Day", hour =
#'   "Hr")`, `c(year = "Y", month = "M")`. Parts are `date`, `time`, `hour`,
#'   `year`, `quarter`, `month`, `day`, `day_of_year`, `week` (ISO 8601),
#'   `weekday`, and, beside a `date` with its time, `offset`, by which the clock
#'   of each row was ahead of UTC (`+01:00`, `-3.5`), or `zone`, the zone of the
#'   tz database that its clock shows; a column that bears the name of its part
#'   needs none. The column made of them is called `when`. For a grid, the name
#'   of its time axis.
#' @param measures The columns with the figures and their kinds:
#'   `c(tide = "flow")`, or with units
#'   `list(tide = measure("flow", unit = "boardings"))`. A log of events, which
#'   has no figures, is counted: `c(tickets = "count")`. See [measure()].
#' @param series Names of the columns that tell one series from another, such as
#'   `"island"`; `NULL` for none.
#' @param zone Zone of the tz database whose clock the times show, such as
#'   `"WET"`. The default `"UTC"` has no daylight saving. It says nothing where
#'   the column holds dates only.
#' @param layout `"rows"`, `"dates across"` or `"series across"`.
#' @param source Name of a column to be made of the files' names (without folder
#'   and ending; of a pattern with one star, what the star stands for), such as
#'   `"line"` where each line has a file of its own. It is one of the `series`
#'   then.
#' @param line_number Name of a column to be made of the line (row of a sheet,
#'   number of a record) that each record stands in, for [trace_value()].
#' @param skip Lines above the header, such as a title.
#' @param header_rows How many rows the header has: 1, or 0 where the first row
#'   is a record (the columns are then called V1, V2 and so on), or 2 with
#'   `layout = "series across"`.
#' @param date_order Order of dates in figures: `"ymd"`, `"dmy"`, `"mdy"`, or
#'   `"fiscal"` for years that span two, such as `2030/31`; `NULL` to find it.
#' @param date_unit The unit of dates stored as numbers: `"day"` (serial days of
#'   a spreadsheet), `"day 1904"` (the same from 1904), `"second"` or
#'   `"millisecond"` (since 1970-01-01 UTC), or `"year"` (decimal years, such as
#'   2031.0833 for February 2031); `NULL` to find it.
#' @param pivot_year The first of the hundred years in which years of two digits
#'   lie.
#' @param year_start The month in which a fiscal year starts, 1 to 12. One that
#'   does not start in January has the number of the year in which it ends.
#'   Years and quarters of a [roll_up()] start in it too.
#' @param repeated Which hour a time is that daylight saving repeats: `"order"`
#'   (of each series the first row with it is the first hour, any further one
#'   the second), `"first"` or `"second"`.
#' @param hour_ending Whether times are the ends of what they stand for: `TRUE`
#'   where hours run from 1 to 24 (or times from 01:00 to 24:00) and 1 is the
#'   hour from midnight to 01:00, so that each record stands at the start of its
#'   hour; `FALSE` where 24:00 is the next midnight, as ISO 8601 has it. Not
#'   needed for times that stand at 00:00; where they run to 24:00 and never do,
#'   it must be given.
#' @param spans Whether spans of time, such as `06:00-07:00`, are read as their
#'   `"start"` or their `"end"`.
#' @param missing Codes that stand for a missing value, such as
#'   `c("-99", "closed")`.
#' @param decimal_mark `"."` or `","`; `NULL` to find it.
#' @param duplicates How to treat records of one series for the same instant:
#'   `"error"`; `"keep"` where each is an event of its own; `"distinct"` where
#'   it is but rows that are the same in every column were pasted twice, which
#'   are set aside; `"first"` or `"last"` to set the others aside; `"sum"` or
#'   `"mean"` to make one record of them.
#' @param strict `TRUE` refuses the file where any row would be set aside.
#' @param rename Other names for measures, the old ones by the new:
#'   `c(nights = "guest_nights")`. See [rename_measures()].
#' @param known The column with the day on which a row was published, if there
#'   is one. Several rows of one series and time are versions then, and not
#'   duplicates: the later one counts from its own publication on. See
#'   [as_known_on()] and [align_as_of()]; [roll_up()] takes the last version.
#' @param items Where the names of many items stand in one column and their
#'   figures in another: that column, named by the column of the names, as
#'   `c(item = "value")`. Each item that `measures` names is a measure then, and
#'   rows of one series and time are one record: `measures = c("ice sold" =
#'   "flow", "berths let" = "level")`. `measures = c(value = "flow")` makes a
#'   measure of every item.
#' @param recode Other names for series, what was written by what it is to be:
#'   `list(Petrel = c("petrel", "Petrle"))`.
#' @param delimiter Delimiter of a text file, one character; `NULL` to find it.
#' @param quote Quotation mark of a text file, one character, or `""` for none.
#' @param encoding Encoding of a text file, such as `"latin1"` or `"UTF-16LE"`;
#'   see [iconvlist()]. `NULL` for UTF-8, or UTF-16 with a byte order mark.
#' @param sheet,range Sheet of a workbook (name or number; `NULL` for the
#'   first), and a range of cells in it.
#' @param table Table or `SELECT` of a database, or member of a JSON document;
#'   `NULL` where there is only one.
#' @param cells Cells of a NetCDF grid: `"mean"` for their mean, weighted by
#'   area; `"each"` for a series each, by `lat` and `lon`; `c(lat, lon)` for the
#'   cell nearest to a place; or `c(south, north, west, east)` for the mean of
#'   those whose middle lies in that box.
#' @param chunked `TRUE` for delimited text, or files of Parquet, that together
#'   are larger than memory: nothing is read yet, and [roll_up()] reads them in
#'   chunks, to the same table and the same account (which [account()] gives
#'   then, without gaps and odd values). A file of Parquet is one chunk, of
#'   which only the columns that are named are read; it must fit into memory.
#'   Each series must be in order of time, or `duplicates` be `"keep"`.
#'   The dates' order and the decimal mark are found in each chunk, so one that
#'   leaves them open is an error that asks for them. Counters must be in order
#'   of time too; quantiles need room for the values. Chunks of text are of 32
#'   MiB, or of as many bytes as the option `backfill.chunk_bytes` says.
#' @return A records table: a tibble of the rows used with all columns of the
#'   file, `when` as `Date` or `POSIXct`, the measures as doubles.
#' @section Errors: `backfill_error_file` (no such file, empty, damaged, not of
#'   a known format), `backfill_error_column` (a column that the file has not),
#'   `backfill_error_when` (no dates in half of the rows or more),
#'   `backfill_error_date_order` (two orders fit), `backfill_error_number` (no
#'   numbers in half of a measure's rows, or a comma of two meanings),
#'   `backfill_error_layout`, `backfill_error_duplicates`,
#'   `backfill_error_strict`, `backfill_error_kind`, `backfill_error_zone`,
#'   `backfill_error_package` (a package that the format needs is missing),
#'   `backfill_error_argument`.
#' @seealso [inspect_file()] to find out how a file is to be read,
#'   [as_records()] for a data frame, [roll_up()] for the next step.
#' @examples
#' read_records(demo_file("inns.csv"))
#' read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn",
#'   measures = list(guest_nights = measure("flow", unit = "guest nights"))
#' )
#' read_records(demo_file("water-tanks.csv"),
#'   when = "date", series = c("village", "tank"), layout = "dates across",
#'   measures = list(reading = measure("counter", unit = "litres"))
#' )
#' @export
read_records <- function(
  file, when = NULL, measures = NULL, series = NULL, zone = "UTC",
  layout = "rows", source = NULL, skip = 0, header_rows = 1, date_order = NULL,
  date_unit = NULL, pivot_year = 1969, year_start = NULL, repeated = "order",
  hour_ending = NULL, spans = "start", missing = NULL, decimal_mark = NULL,
  duplicates = "error", strict = FALSE, rename = NULL, known = NULL,
  items = NULL, recode = NULL, line_number = NULL, delimiter = NULL,
  quote = "\"", encoding = NULL, sheet = NULL, range = NULL, table = NULL,
  cells = "mean", chunked = FALSE
) {
  given <- mget(as.character(setdiff(names(match.call())[-1], "file")))
  looked_through <- !missing(file) && is.character(file) &&
    isFALSE(chunked) && !any(read_once(file))
  if (looked_through && length(roles_lacking(file, given)) > 0) {
    return(read_as_found(file, given))
  }
  check_given()
  if (is.data.frame(file)) {
    find_files(file) # which refuses it
  }
  rules <- check_rules(list(
    date_order = date_order, date_unit = date_unit, pivot_year = pivot_year,
    year_start = year_start, repeated = repeated, hour_ending = hour_ending,
    spans = spans,
    missing = missing, decimal_mark = decimal_mark, duplicates = duplicates,
    strict = strict
  ))
  items <- check_items(items, measures, known, line_number)
  asked <- new_reading(
    when, if (is.null(items)) measures else figures_of_items(items),
    union(series, items$column), zone, layout, rules, known
  )
  asked$recode <- check_recode(recode)
  form <- check_form(list(
    delimiter = delimiter, quote = quote, encoding = encoding, skip = skip,
    header_rows = header_rows, sheet = sheet, range = range, table = table,
    cells = cells
  ))
  form <- form_for(form, asked)
  asked$line_number <- check_line(line_number)
  check_flag(chunked, "chunked")
  if (chunked) {
    check_nothing_renamed(rename)
    check_not_chunked(known, line_number, items, recode)
    return(read_chunked(file, source, asked, form))
  }
  scratch <- tempfile("backfill-")
  dir.create(scratch)
  on.exit(unlink(scratch, recursive = TRUE))
  raw <- read_sources(file, form, source, scratch)
  asked$series <- union(asked$series, raw$series)
  asked$when <- asked$when %||% raw$when
  rename_as_read(items_as_measures(build_records(raw, asked), items), rename)
}

check_line <- function(line_number) {
  if (!is.null(line_number) && !rlang::is_string(line_number)) {
    abort_backfill(
      "argument",
      "`line_number` is {value_in_words(line_number)}; it must be a name for a",
      "column."
    )
  }
  line_number
}
