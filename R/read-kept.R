# Tables that the package wrote before, which are not records.

# The key for what is the package's own among the terms of the standard.
own_term <- "https://backfill.example/terms#table"

metadata_file <- function(file) paste0(file, "-metadata.json")

# Whether a file is one whose metadata are ours.
was_written <- function(file) {
  facts <- rlang::try_fetch(
    facts_of_written(file), backfill_error = function(cnd) NULL
  )
  !is.null(facts)
}

# What a file says of the table in it, as own_facts() has it; NULL where the
# package did not write it.
facts_of_written <- function(file) {
  if (!rlang::is_string(file) || file_kind_cpp(file) != "regular") {
    return(NULL)
  }
  switch(
    kept_type(file), csv = facts_beside(file), jsonl = facts_above(file),
    xlsx = facts_in_workbook(file), parquet = facts_in_parquet(file)
  )
}

# JSON lines are known by their first one, as standard input has no name.
kept_type <- function(file) {
  start <- charToRaw(facts_line_start)
  found <- identical(readBin(file, "raw", length(start)), start)
  if (found) "jsonl" else file_type(file)
}

file_type <- function(file) {
  tolower(sub("^.*[.]", "", basename(file)))
}

facts_line_start <- sprintf("{\"%s\":", own_term)

facts_above <- function(file) {
  line <- readLines(file, 1, encoding = "UTF-8", warn = FALSE)
  facts_of_json(line)[[own_term]]
}

facts_beside <- function(file) {
  beside <- metadata_file(file)
  if (file_kind_cpp(beside) == "regular") {
    text <- paste(readLines(beside, warn = FALSE), collapse = "\n")
    facts_of_json(text)[[own_term]]
  }
}

facts_in_workbook <- function(file) {
  need_package("readxl", "to read a workbook")
  text <- read_apart(function(path) {
    if ("about" %in% readxl::excel_sheets(path)) {
      about <- readxl::read_xlsx(path, "about", col_types = "text")
      paste(about[[1]], collapse = "")
    }
  }, list(path = file, shown = file), "a workbook")
  facts_of_json(text %||% "")
}

facts_in_parquet <- function(file) {
  need_package("nanoparquet", "to read Parquet")
  text <- read_apart(function(path) {
    kept <- nanoparquet::read_parquet_metadata(path)
    kept <- kept$file_meta_data$key_value_metadata[[1]]
    kept$value[match("backfill", kept$key)]
  }, list(path = file, shown = file), "Parquet")
  if (!is.na(text)) facts_of_json(text)
}

# NULL of what is no JSON, or not that of the package.
facts_of_json <- function(text) {
  facts <- tryCatch(
    jsonlite::fromJSON(text, simplifyVector = FALSE),
    error = function(cnd) NULL
  )
  if (is.list(facts)) facts
}

check_not_written <- function(file) {
  if (was_written(file)) {
    abort_backfill(
      "input",
      "{basename(file)} is a table that Backfill wrote, not a file of records.",
      ">" = "In R read_periods() reads it with all that it knows. Name its",
      "columns to read it as records."
    )
  }
}
