# Workbooks: each cell keeps its own type, so that a note among dates makes no
# numbers of them.

read_workbook <- function(file, format, form) {
  packed <- tryCatch(
    utils::unzip(file$path, list = TRUE)$Length, error = function(cnd) 0,
    warning = function(cnd) 0
  )
  check_unpacked(sum(packed), file.size(file$path), file)
  found <- if (format == "opendocument") {
    read_ods_cells(file, form)
  } else {
    read_ooxml_cells(file, form)
  }
  first_row <- first_row_of(form$range)
  raw <- cells_to_raw(found$columns, first_row, file, form)
  raw$notes <- c(raw$notes, notes_of_book(found$about))
  raw$serial <- found$about$serial
  raw
}

notes_of_book <- function(about) {
  passed <- about$passed
  bare <- about$bare %||% 0
  c(
    if (length(passed) > 0) sprintf(
      "The %s %s hidden, and the first one that is not was read.",
      if (length(passed) == 1) "sheet" else "sheets",
      paste(in_words(quoted(passed)), if (length(passed) == 1) "is" else "are")
    ),
    if (!is.null(about$untold)) glue(
      "The first sheet, {quoted(about$untold)}, was read; an .xls file does",
      "not tell us whether a sheet is hidden. Name another with `sheet`."
    ),
    if (bare > 0) glue(
      "{count_of(bare, 'cell has', 'cells have')} a formula whose value was",
      "never stored, and {if (bare == 1) 'is' else 'are'} blank here; a",
      "spreadsheet that saves the workbook stores",
      "{if (bare == 1) 'it' else 'them'}."
    )
  )
}

read_ooxml_cells <- function(file, form) {
  for (package in c("readxl", "xml2")) need_package(
    package, "to read workbooks"
  )
  range <- form$range %||% cellranger_from_top()
  file$path <- workbook_path(file$path)
  found <- read_sheet(
    ooxml_cells_apart, file, form$sheet, range, sheet_part = sheet_part,
    stop_sparse = stop_sparse, failed_formulas = failed_formulas,
    facts_of_book = facts_of_book, bare_formulas = bare_formulas
  )
  list(
    columns = lapply(as.list(found$cells), column_of_cells),
    about = found$about
  )
}

# readxl leaves out blank rows above the first cell unless it is told where to
# start.
cellranger_from_top <- function() readxl::cell_limits(c(1, 1), c(NA, NA))

# It goes by a file's ending, which a downloaded or piped file may lack.
workbook_path <- function(path) {
  if (grepl("[.]xlsx?$", path, ignore.case = TRUE)) {
    return(path)
  }
  ending <- if (readBin(path, "raw", 1) == as.raw(0xd0)) ".xls" else ".xlsx"
  copy <- tempfile(tmpdir = tempdir(), fileext = ending)
  file.copy(path, copy)
  copy
}

read_ods_cells <- function(file, form) {
  need_package("readODS", "to read OpenDocument workbooks")
  found <- read_sheet(
    ods_cells_apart, file, form$sheet, form$range,
    hidden_ods_sheets = hidden_ods_sheets
  )
  list(
    columns = lapply(as.list(found$cells), column_of_texts),
    about = found$about
  )
}

read_sheet <- function(read, file, sheet, range, ...) {
  need_package("zip", "to read workbooks")
  found <- read_apart(
    read, file, "a workbook", sheet, range, unpack = unpack_workbook,
    named_sheet = named_sheet, ...
  )
  if (length(found$cells) == 0) {
    abort_backfill(
      "file", "The sheet of {basename(file$shown)} is empty.",
      ">" = "Name another one: `sheet`."
    )
  }
  found
}

# Of a range such as Sheet!B3:F40.
first_row_of <- function(range) {
  row <- if (!is.null(range)) regmatches(
    sub("^.*!", "", range), regexpr("[0-9]+", sub("^.*!", "", range))
  )
  if (length(row) == 0) 1L else as.integer(row)
}

# A column's cells as one vector: times where all are, numbers where all are,
# else text.
column_of_cells <- function(cells) {
  cells[lengths(cells) == 0] <- list(NA)
  kind <- vapply(cells, function(cell) {
    if (is.na(cell)) {
      "blank"
    } else {
      class(cell)[[1]]
    }
  }, "")
  list(cells = cells, kind = kind)
}

column_of_texts <- function(text) {
  list(
    cells = as.list(text),
    kind = ifelse(is.na(text) | text == "", "blank", "character")
  )
}

# The rows below the header, in columns each of one type.
column_values <- function(column, rows) {
  kind <- unique(column$kind[rows])
  kind <- setdiff(kind, "blank")
  cells <- column$cells[rows]
  blank <- column$kind[rows] == "blank"
  if (identical(kind, "numeric")) {
    return(as.numeric(unlist(cells)))
  }
  if (identical(kind, "POSIXct")) {
    seconds <- as.numeric(unlist(cells))
    if (all(seconds %% 86400 == 0, na.rm = TRUE)) {
      return(.Date(seconds / 86400))
    }
    # What a clock showed, in no zone that the workbook knows of.
    return(ifelse(is.na(seconds), NA, cell_time(seconds)))
  }
  out <- rep(NA_character_, length(cells))
  for (k in kind) {
    of_kind <- column$kind[rows] == k
    values <- unlist(cells[of_kind])
    out[of_kind] <- switch(
      k, POSIXct = cell_time(as.numeric(values)),
      numeric = exact_figures(values), as.character(values)
    )
  }
  out[blank] <- NA
  out
}

# Seconds since 1970 as text; the time of day alone where the day is that of
# 1899, by which workbooks mean none.
cell_time <- function(seconds) {
  seconds <- round(seconds, 3)
  time <- .POSIXct(seconds, tz = "UTC")
  none <- seconds < -2208988800
  ifelse(none, format(time, "%H:%M:%S"),
         ifelse(
           seconds %% 86400 == 0, format(time, "%Y-%m-%d"),
           format(time, "%Y-%m-%d %H:%M:%OS3")
         ))
}

# A sheet's cells as a raw table: the header is the first row behind `skip`,
# blank rows are left out.
cells_to_raw <- function(columns, first_row, file, form) {
  filled <- Reduce(
    `+`, lapply(columns, function(column) column$kind != "blank")
  )
  rows <- which(filled > 0)
  rows <- rows[rows > form$skip]
  used <- vapply(
    columns, function(column) any(column$kind[rows] != "blank"), NA
  )
  columns <- columns[used]
  if (length(rows) < max(1, form$header_rows)) {
    abort_backfill("file", "The sheet of {basename(file$shown)} has no header.")
  }
  near <- utils::head(rows, 12 + form$header_rows)
  text_of <- function(row) {
    vapply(columns, function(column) {
      if (column$kind[[row]] == "blank") {
        ""
      } else {
        as.character(column_values(column, row))
      }
    }, "")
  }
  header <- list(paste0("V", seq_along(columns)))
  if (form$header_rows > 0) {
    stop_title(
      lapply(near, function(row) nzchar(text_of(row))), near + first_row - 1L,
      form$header_rows, file
    )
    header <- header_names(lapply(rows[seq_len(form$header_rows)], text_of))
  }
  below <- rows[seq_along(rows) > form$header_rows]
  new_raw(
    file_columns(lapply(columns, column_values, rows = below), file),
    length(below), header, file$shown,
    function(rows) below[rows] + first_row - 1L
  )
}
