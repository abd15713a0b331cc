#' @rdname write_periods
#' @export
read_periods <- function(file) {
  check_given()
  if (!rlang::is_string(file) || file_kind_cpp(file) != "regular") {
    abort_backfill("file", "There is no file {value_in_words(file)}.")
  }
  found <- switch(
    file_type(file), csv = kept_in_csv(file), xlsx = kept_in_workbook(file),
    parquet = kept_in_parquet(file), stop_not_kept(file)
  )
  rlang::try_fetch(
    kept_table(found$columns, found$facts, file), error = function(cnd) {
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
    i = "What is read back is a .csv file with its metadata beside it, a .xlsx",
    "or a .parquet file.",
    ">" = "read_records() reads other files."
  )
}

# Each list(columns, facts): the columns as the file has them, and the facts as
# as_plain() made them, or NULL where the file has none that are ours.

kept_in_csv <- function(file) {
  beside <- metadata_file(file)
  facts <- if (file_kind_cpp(beside) == "regular") {
    facts_of_json(paste(readLines(beside, warn = FALSE), collapse = "\n"))
  }
  facts <- facts[[own_term]]
  if (is.null(facts)) stop_not_kept(file)
  if (!identical(unname(tools::md5sum(file)), facts$md5)) {
    rlang::warn(
      c(
        glue("{basename(file)} was changed after it was written."),
        i = paste(
          "Its metadata may not be true of it any more: what it says of kinds,",
          "calendar and calculations is that of the table before."
        )
      ),
      class = c("backfill_warning_changed", "backfill_warning")
    )
  }
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
  list(columns = as.list(columns), facts = facts)
}

facts_of_json <- function(text) {
  tryCatch(
    jsonlite::fromJSON(text, simplifyVector = FALSE),
    error = function(cnd) NULL
  )
}

kept_in_workbook <- function(file) {
  need_package("readxl", "to read a workbook")
  found <- read_apart(function(path) {
    if ("about" %in% readxl::excel_sheets(path)) {
      about <- readxl::read_xlsx(path, "about", col_types = "text")
      list(
        text = paste(about[[1]], collapse = ""),
        columns = as.list(readxl::read_xlsx(path, 1, guess_max = 1e6))
      )
    }
  }, list(path = file, shown = file), "a workbook")
  facts <- facts_of_json(found$text %||% "")
  if (is.null(facts)) stop_not_kept(file)
  list(columns = found$columns, facts = facts)
}

kept_in_parquet <- function(file) {
  need_package("nanoparquet", "to read Parquet")
  found <- read_apart(function(path) {
    kept <- nanoparquet::read_parquet_metadata(path)
    kept <- kept$file_meta_data$key_value_metadata[[1]]
    list(
      text = kept$value[match("backfill", kept$key)],
      columns = as.list(nanoparquet::read_parquet(path))
    )
  }, list(path = file, shown = file), "Parquet")
  facts <- if (!is.na(found$text)) facts_of_json(found$text)
  if (is.null(facts)) stop_not_kept(file)
  list(columns = found$columns, facts = facts)
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
