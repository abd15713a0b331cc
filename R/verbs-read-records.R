# The arguments of read_records().

declare_read_records <- function() {
  new_verb(
    "read_records", "a file", "records", "Read the dated records of a file.",
    !!!roles_in_reading(),
    !!!dates_in_reading(),
    !!!figures_in_reading(),
    !!!files_in_reading()
  )
}

# Which columns are what.
roles_in_reading <- function() {
  list(
    when = verb_argument(
      new_type("COLUMN", function(text, argument) named_parts(text)),
      paste(
        "The column with the date or time. Where it stands in several, give",
        "it once for each, as PART=COLUMN: date,",
        "time, hour, year, quarter, month, day, day_of_year, week, weekday,",
        "offset (from UTC), zone.",
        "Found where it is not given."
      ),
      repeats = TRUE
    ),
    measures = verb_argument(
      type_measures(),
      paste(
        "A column of figures and its kind: flow (added up, such as sales),",
        "level (averaged, such as a price), counter",
        "(a reading that only rises), count (of the rows, under a new name),",
        "return (compounded) or \"log return\" (added up). For one measure",
        "per another, NAME:ratio:OF/PER[:UNIT]. The unit labels the figure's",
        "axis.",
        "Give it once for each measure. Found where none is given."
      ),
      repeats = TRUE
    ),
    series = verb_argument(type_text("COLUMN"), paste(
      "A column that tells one series from another, such as island. Give it",
      "once for each such column."
    ), repeats = TRUE),
    zone = verb_argument(type_text("ZONE"), paste(
      "Zone of the tz database whose clock the times show, such as WET.",
      "Default: UTC."
    )),
    layout = verb_argument(
      type_text("LAYOUT"),
      "rows (the default), \"dates across\" or \"series across\"."
    ),
    source = verb_argument(
      type_text("NAME"),
      "Make a series column NAME of the files' names, where several are read."
    ),
    line_number = verb_argument(type_text("NAME"), paste(
      "Make a column NAME of the line that each record stands in, for",
      "`backfill trace --rows`."
    )),
    known = verb_argument(type_text("COLUMN"), paste(
      "The column with the day on which a row was published. Several rows of",
      "one time are versions then."
    )),
    items = verb_argument(
      type_pairs(
        "NAMES=FIGURES",
        "It must be two columns, such as item=value."
      ),
      paste(
        "The names of items stand in the column NAMES and their figures in the",
        "column FIGURES: make a measure of each item that --measure names."
      )
    ),
    recode = verb_argument(
      type_pairs(
        "NEW=OLD",
        "It must be the new name and the old one, such as Petrel=petrel."
      ),
      "Call the series OLD by the name NEW; may repeat.", repeats = TRUE
    ),
    rename = verb_argument(
      type_renamed(), "Give the measure OLD the name NEW; may repeat.",
      repeats = TRUE
    )
  )
}

# How dates are written.
dates_in_reading <- function() {
  list(
    date_order = verb_argument(
      type_text("ORDER"),
      "Order of dates in figures: ymd, dmy, mdy or fiscal. Found by default."
    ),
    date_unit = verb_argument(
      type_text("UNIT"),
      paste(
        "The unit of dates stored as numbers: day, \"day 1904\", second,",
        "millisecond, or year (decimal years)."
      )
    ),
    pivot_year = verb_argument(
      type_number("YEAR"),
      "First of the hundred years that two digits can mean. Default: 1969."
    ),
    year_start = verb_argument(
      type_number("MONTH"), "Month in which a fiscal year starts, 1 to 12."
    ),
    repeated = verb_argument(type_text("WHICH"), paste(
      "Which hour a time is that daylight saving repeats: order (the",
      "default), first or second."
    )),
    hour_ending = verb_argument(type_yes_no(), paste(
      "Where times run from 01:00 to 24:00: yes if each is the end of its",
      "hour, no if 24:00 is the next midnight."
    )),
    spans = verb_argument(type_text("END"), paste(
      "Whether spans of time, such as 06:00-07:00, are read as their start",
      "(the default) or their end."
    ))
  )
}

# How figures are, and which rows are refused.
figures_in_reading <- function() {
  list(
    missing = verb_argument(
      type_text("CODE"),
      "A code that stands for a missing value, such as -99; may repeat.",
      repeats = TRUE
    ),
    decimal_mark = verb_argument(
      type_text("MARK"), "The decimal mark, . or , (found by default)."
    ),
    duplicates = verb_argument(type_text("RULE"), paste(
      "Records of one series for the same time: error (the default), keep,",
      "distinct (without rows that repeat another in every column), first,",
      "last, sum or mean."
    )),
    strict = verb_argument(
      type_flag(), "Refuse the file where any row would be set aside."
    )
  )
}

# How the file is made.
files_in_reading <- function() {
  list(
    skip = verb_argument(
      type_number("LINES"), "Lines above the header. Default: 0."
    ),
    header_rows = verb_argument(
      type_number("ROWS"), "Rows of the header, 0, 1 or 2."
    ),
    chunked = verb_argument(
      type_flag(), "Read text or Parquet that is larger than memory in chunks."
    ),
    delimiter = verb_argument(
      new_type("MARK", function(text, argument) {
        if (text == "\\t") "\t" else text
      }),
      "Delimiter of a text file; \\t for a tab. Found by default."
    ),
    quote = verb_argument(
      new_type("MARK", function(text, argument) {
        if (text == "none") "" else text
      }),
      "Quotation mark of a text file; none for none. Default: \"."
    ),
    encoding = verb_argument(
      type_text("NAME"),
      "Encoding of a text file, such as latin1. Default: UTF-8."
    ),
    sheet = verb_argument(
      type_number("NAME"),
      "Sheet of a workbook, by name or number. Default: the first."
    ),
    range = verb_argument(
      type_text("CELLS"), "Range of cells in it, such as B3:F40."
    ),
    table = verb_argument(
      type_text("NAME"),
      "Table or SELECT of a database, or member of a JSON document."
    ),
    cells = verb_argument(new_type("CELLS", function(text, argument) {
      side <- "-?[0-9.]+(:-?[0-9.]+)?"
      if (grepl(sprintf("^%s,%s$", side, side), text)) {
        as.numeric(strsplit(text, "[,:]")[[1]])
      } else {
        text
      }
    }), paste(
      "Cells of a grid: mean (the default), each, LAT,LON for the nearest, or",
      "LAT:LAT,LON:LON for the mean of those in a box."
    ))
  )
}
