# Options that say how the input is to be read, which the commands have in common: each an argument of read_records().

reading_options <- function() {
  list(
    when = cli_option("COLUMN", paste(
      "The column with the date or time. Where it stands in several, give it once for each, as PART=COLUMN: date,",
      "time, hour, year, quarter, month, day, day_of_year, week, weekday. Required but for grids."
    ), repeats = TRUE),
    measure = cli_option("NAME:KIND[:UNIT]", paste(
      "A column of figures and its kind: flow (added up, such as sales), level (averaged, such as a price), counter",
      "(a reading that only rises), return (compounded) or \"log return\" (added up). For one measure per another,",
      "NAME:ratio:OF/PER[:UNIT]. The unit labels the figure's axis. Required; give it once for each measure."
    ), repeats = TRUE),
    series = cli_option("COLUMN", paste(
      "A column that tells one series from another, such as island. Give it once for each such column."
    ), repeats = TRUE),
    zone = cli_option("ZONE", "Zone of the tz database whose clock the times show, such as WET. Default: UTC."),
    layout = cli_option("LAYOUT", "rows (the default), \"dates across\" or \"series across\"."),
    source = cli_option("NAME", "Make a series column NAME of the files' names, where several are read."),
    skip = cli_option("LINES", "Lines above the header. Default: 0."),
    "header-rows" = cli_option("ROWS", "Rows of the header, 1 or 2."),
    "date-order" = cli_option("ORDER", "Order of dates in figures: ymd, dmy, mdy or fiscal. Found by default."),
    "date-unit" = cli_option("UNIT", "What dates that are counts count: day, \"day 1904\", second, millisecond."),
    "pivot-year" = cli_option("YEAR", "First of the hundred years that two digits can mean. Default: 1969."),
    "year-start" = cli_option("MONTH", "Month in which a fiscal year starts, 1 to 12."),
    repeated = cli_option("WHICH", paste(
      "Which hour a time is that daylight saving repeats: order (the default), first or second."
    )),
    "hour-ending" = cli_option("YES|NO", paste(
      "Where times run from 01:00 to 24:00: yes if each is the end of its hour, no if 24:00 is the next midnight."
    )),
    missing = cli_option("CODE", "A code that stands for a missing value, such as -99; may repeat.", repeats = TRUE),
    "decimal-mark" = cli_option("MARK", "The decimal mark, . or , (found by default)."),
    duplicates = cli_option("RULE", paste(
      "Records of one series for the same time: error (the default), keep, first, last, sum or mean."
    )),
    strict = cli_flag("Refuse the file where any row would be set aside."),
    chunked = cli_flag("Read delimited text that is larger than memory in chunks."),
    delimiter = cli_option("MARK", "Delimiter of a text file; \\t for a tab. Found by default."),
    quote = cli_option("MARK", "Quotation mark of a text file; none for none. Default: \"."),
    encoding = cli_option("NAME", "Encoding of a text file, such as latin1. Default: UTF-8."),
    sheet = cli_option("NAME", "Sheet of a workbook, by name or number. Default: the first."),
    range = cli_option("CELLS", "Range of cells in it, such as B3:F40."),
    table = cli_option("NAME", "Table or SELECT of a database, or member of a JSON document."),
    cells = cli_option("CELLS", "Cells of a grid: mean (the default), each, or LAT,LON.")
  )
}

for_some_files <- function() {
  setdiff(names(reading_options()), c("when", "measure", "series", "zone"))
}

# The options as arguments of read_records().
reading_arguments <- function(options) {
  given <- options[intersect(names(options), names(reading_options()))]
  given <- given[!vapply(given, is.null, NA)]
  given <- given[!vapply(given, isFALSE, NA)]
  names(given) <- gsub("-", "_", names(given), fixed = TRUE)
  if (!is.null(given$when)) {
    given$when <- named_parts(given$when)
  }
  for (name in intersect(names(given), c("skip", "header_rows", "pivot_year", "year_start", "sheet"))) {
    given[[name]] <- number_or_text(given[[name]])
  }
  if (!is.null(given$measure)) {
    given$measures <- named_measures(given$measure)
    given$measure <- NULL
  }
  if (!is.null(given$hour_ending)) {
    given$hour_ending <- check_one_of(given$hour_ending, c("yes", "no"), "hour_ending", call = NULL) == "yes"
  }
  given$delimiter <- if (identical(given$delimiter, "\\t")) "\t" else given$delimiter
  given$quote <- if (identical(given$quote, "none")) "" else given$quote
  if (grepl("^-?[0-9.]+,-?[0-9.]+$", given$cells %||% "")) {
    given$cells <- as.numeric(strsplit(given$cells, ",")[[1]])
  }
  given
}

# Reads the input files, or standard input, with a bar on a terminal where it takes long.
read_input <- function(options, inputs) {
  files <- input_files(inputs)
  arguments <- reading_arguments(options)
  doing(paste("Reading", in_words(basename(inputs), 3)), with_progress({
    records <- do.call(read_records, c(list(files), arguments))
    if (options$chunked) {
      intake(records) # which reads them
    }
    records
  }))
}

# The reader's own bar goes where messages go, and only to a terminal.
with_progress <- function(code) {
  if (!isatty(stderr())) {
    return(code)
  }
  old <- options(backfill.progress = TRUE)
  sink(stderr())
  on.exit({
    sink()
    options(old)
  })
  code
}

# "-" is standard input, which is put into a file first, as readers want to look at it twice.
input_files <- function(inputs) {
  inputs[inputs == "-"] <- vapply(inputs[inputs == "-"], function(input) standard_input(), "")
  inputs
}

standard_input <- function() {
  path <- file.path(tempdir(), "standard input")
  from <- file("stdin", "rb")
  to <- file(path, "wb")
  on.exit({
    close(from)
    close(to)
  })
  repeat {
    block <- readBin(from, "raw", 2^20)
    if (length(block) == 0) break
    writeBin(block, to)
  }
  path
}

grid_input <- function(inputs) {
  first <- if (file.exists(inputs[[1]]) && !dir.exists(inputs[[1]])) inputs[[1]] else Sys.glob(inputs[[1]])[1]
  !is.na(first) && file_format(first) == "netcdf"
}

# "date=Day" to c(date = "Day"). A name may hold a "=" itself where what stands before it is no part.
named_parts <- function(texts) {
  part <- sub("=.*", "", texts)
  has <- grepl("=", texts, fixed = TRUE) & part %in% date_parts
  stats::setNames(ifelse(has, sub("^[^=]*=", "", texts), texts), ifelse(has, part, ""))
}

# "north:flow:boardings" to list(north = measure("flow", "boardings")). A name may hold colons itself.
named_measures <- function(texts) {
  form <- sprintf("^(.+?):(%s)(?::(.+))?$", paste(measure_kinds, collapse = "|"))
  parts <- regmatches(texts, regexec(form, texts, perl = TRUE))
  odd <- texts[lengths(parts) == 0]
  if (length(odd) > 0) {
    stop_kindless(odd[[1]])
  }
  measures <- lapply(parts, function(part) {
    if (part[[3]] != "ratio") {
      return(measure(part[[3]], unit = if (nzchar(part[[4]])) part[[4]]))
    }
    of <- regmatches(part[[4]], regexec("^(.+?)/(.+?)(?::(.+))?$", part[[4]], perl = TRUE))[[1]]
    if (length(of) == 0) {
      stop_usage(sprintf("`measure` is \"%s\", a ratio that does not say of what.", part[[1]]),
                 i = sprintf("It must be such as \"%s:ratio:guest_nights/residents\".", part[[2]]))
    }
    measure("ratio", unit = if (nzchar(of[[4]])) of[[4]], of = of[[2]], per = of[[3]])
  })
  stats::setNames(measures, vapply(parts, `[[`, "", 2))
}

stop_kindless <- function(text) {
  if (grepl(":", text, fixed = TRUE)) {
    measure(sub(".*:", "", text)) # which says what kinds there are
  }
  stop_usage(sprintf("`measure` is \"%s\", which names no kind.", text),
             i = sprintf("It must be such as \"%s:flow\" or \"%s:level\".", text, text))
}
