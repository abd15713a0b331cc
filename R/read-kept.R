# Tables that the package wrote before, which are not records.

# The key for what is the package's own among the terms of the standard.
own_term <- "https://backfill.example/terms#table"

metadata_file <- function(file) paste0(file, "-metadata.json")

# Whether a file is one whose metadata beside it are ours.
was_written <- function(file) {
  rlang::is_string(file) && file_kind_cpp(file) == "regular" &&
    file_kind_cpp(metadata_file(file)) == "regular" &&
    any(grepl(own_term, readLines(metadata_file(file), warn = FALSE),
              fixed = TRUE))
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
