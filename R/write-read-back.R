#' @rdname write_periods
#' @export
read_periods <- function(file) {
  check_given()
  if (!rlang::is_string(file) || file_kind_cpp(file) != "regular") {
    abort_backfill("file", "There is no file {value_in_words(file)}.")
  }
  facts <- facts_of_written(file)
  if (is.null(facts)) stop_not_kept(file)
  columns <- switch(
    kept_type(file), csv = kept_in_csv(file, facts),
    jsonl = kept_in_lines(file, facts), xlsx = kept_in_workbook(file),
    parquet = kept_in_parquet(file)
  )
  rlang::try_fetch(
    kept_table(columns, facts, file), error = function(cnd) {
      abort_backfill(
        "file",
        "{basename(file)} is damaged:",
        "{sub('[.]?(\n.*)?$', '', rlang::cnd_message(cnd))}."
      )
    }
  )
}

stop_not_kept <- function(file) {
  abort_backfill(
    "file", "{basename(file)} was not written by write_periods().",
    i = "What is read back is a .csv file with its metadata beside it, a",
    ".jsonl, a .xlsx or a .parquet file.",
    ">" = "read_records() reads other files."
  )
}

# Each gives the columns as the file has them.

kept_in_csv <- function(file, facts) {
  if (!identical(unname(tools::md5sum(file)), facts$md5)) warn_changed(file)
  columns <- data.table::fread(
    file = file, sep = ",", header = TRUE, colClasses = "character",
    na.strings = "", strip.white = FALSE, encoding = "UTF-8",
    data.table = FALSE, blank.lines.skip = FALSE, showProgress = FALSE,
    check.names = FALSE
  )
  as_written <- function(text) unmarked(with_single_quotes(text, "\""))
  names(columns) <- as_written(names(columns))
  # Numbers are not marked.
  texts <- setdiff(names(columns), names(Filter(
    function(sort) identical(sort$type, "double"), facts$columns
  )))
  columns[texts] <- lapply(columns[texts], by_distinct, as_written)
  as.list(columns)
}

warn_changed <- function(file) {
  warn_backfill(
    "changed", "{basename(file)} was changed after it was written.",
    i = "Its metadata may not be true of it any more: what it says of kinds,",
    "calendar and calculations is that of the table before."
  )
}

# An object of JSON in each line below that of the facts.
kept_in_lines <- function(file, facts) {
  lines <- readLines(file, encoding = "UTF-8", warn = FALSE)[-1]
  rows <- tryCatch(
    jsonlite::fromJSON(
      sprintf("[%s]", paste(lines, collapse = ",")), simplifyVector = FALSE
    ),
    error = function(cnd) {
      abort_backfill(
        "file", "{basename(file)} is damaged: a line is not an object of JSON."
      )
    }
  )
  if (!identical(length(rows), facts$rows)) warn_changed(file)
  named <- stats::setNames(nm = names(facts$columns))
  if (length(rows) > 0) named <- named[named %in% names(rows[[1]])]
  lapply(named, function(name) cells_as_column(lapply(rows, `[[`, name)))
}

# Figures keep all their digits beside texts such as "Inf".
cells_as_column <- function(cells) {
  out <- rep(NA, length(cells))
  known <- lengths(cells) > 0
  text <- vapply(cells, is.character, NA)
  if (all(text[known])) {
    out[known] <- unlist(cells[known])
    return(out)
  }
  out[text] <- as.numeric(unlist(cells[text]))
  out[known & !text] <- unlist(cells[known & !text])
  out
}

kept_in_workbook <- function(file) {
  read_apart(function(path) {
    as.list(readxl::read_xlsx(path, 1, guess_max = 1e6))
  }, list(path = file, shown = file), "a workbook")
}

kept_in_parquet <- function(file) {
  read_apart(function(path) {
    as.list(nanoparquet::read_parquet(path))
  }, list(path = file, shown = file), "Parquet")
}

# The table of the columns that a file has, with what it knew.
kept_table <- function(columns, kept, file) {
  if (!identical(as.integer(kept$version), 1L)) {
    stop("its facts are of another version of the format")
  }
  class <- plain_vector(kept$class, "character")
  if (!"backfill_table" %in% class || !all(grepl(kept_classes, class))) {
    stop("its facts are not those of a table")
  }
  lost <- setdiff(names(kept$columns), names(columns))
  if (length(lost) > 0) {
    stop(sprintf("it lacks the column %s", in_words(quoted(lost))))
  }
  columns <- Map(as_kept, columns[names(kept$columns)], kept$columns)
  facts <- from_plain(kept$facts)
  facts$beside <- c(facts$beside, normalizePath(file))
  table <- tibble::new_tibble(
    columns, nrow = length(columns[[1]]), class = class, backfill = facts
  )
  if (is_periods(table)) check_periods(table) else table
}

# A column of a file as one of the sort that it had in the table.
as_kept <- function(column, sort) {
  of <- from_plain(sort)
  if (inherits(of, "POSIXct")) {
    return(by_distinct(column, function(text) {
      instants_of_text(text, attr(of, "tzone"))
    }))
  }
  if (is.factor(of)) {
    return(factor_of_text(as.character(column), of))
  }
  if (inherits(of, "Date")) {
    column <- unclass(by_distinct(column, as.Date))
  }
  out <- if (is.double(of) && is.character(column)) {
    numbers_of_text_cpp(column)
  } else {
    suppressWarnings(as.vector(column, typeof(of)))
  }
  bad <- is.na(out) & !is.na(column)
  if (any(bad)) {
    stop(sprintf("%s is not a number", quoted(column[bad][[1]])))
  }
  if (isTRUE(sort$blank)) {
    out[is.na(out)] <- ""
  }
  attributes(out) <- attributes(of)
  out
}

factor_of_text <- function(text, of) {
  known <- match(text, levels(of))
  odd <- is.na(known) & !is.na(text)
  if (any(odd)) {
    stop(glue("{quoted(text[odd][[1]])} is not one of {in_words(levels(of))}"))
  }
  attributes(known) <- attributes(of)
  known
}

# Instants come as text of ISO 8601 with an offset, or as themselves.
instants_of_text <- function(x, zone) {
  if (!inherits(x, "POSIXct")) {
    x <- sub("([+-]\\d\\d):(\\d\\d)$", "\\1\\2", as.character(x))
    x <- as.POSIXct(x, format = "%Y-%m-%dT%H:%M:%S%z", tz = "UTC")
  }
  .POSIXct(as.double(x), zone)
}
