# `--with FILE`: the measures of other files beside those of the input.

with_option <- function() {
  list(with = cli_option("FILE", paste(
    "Put the measures of another file beside these, by series and time. How",
    "it is read is found; a column that has the name of the date or of a",
    "series is that, and --measure names columns of either file. What has no",
    "match is counted. May repeat."
  ), repeats = TRUE))
}

# The other files, each list(file, header).
files_beside <- function(options) {
  for (whole in given_options(options, c("chunked", "database"))) {
    refuse_options(
      options, "with", sprintf("with --%s there is no joining", whole)
    )
  }
  with_spelling("with", {
    lapply(input_files(as.character(options$with)), function(file) {
      list(file = file, header = inspect_file(file)$columns$column)
    })
  })
}

measures_in <- function(texts, header) {
  texts[names(named_measures(texts)) %in% header]
}

# Those that no other file has a column for.
first_measures <- function(texts, beside) {
  theirs <- measures_in(texts, unlist(lapply(beside, `[[`, "header")))
  own <- setdiff(texts, theirs)
  if (length(own) > 0) own
}

# How dates and figures are written, in all files of a command.
written_alike <- c(
  "zone", "date_order", "date_unit", "pivot_year", "year_start", "repeated",
  "hour_ending", "missing", "decimal_mark"
)

joined_with <- function(records, beside, options) {
  if (length(beside) == 0) {
    return(records)
  }
  others <- lapply(beside, function(other) {
    found <- with_spelling(
      "with", settled_found(inspect_as_told(
        options_beside(options, other$header, facts(records)), other$file
      ))
    )
    if (!options$quiet) {
      say(wrapped(spelled(c(
        paste0(basename(other$file), ". ", roles_in_words(found)), found$notes
      ))), "")
    }
    found$records
  })
  with_spelling("with", do.call(join_records, c(list(records), others)))
}

options_beside <- function(options, header, role) {
  own <- options[given_options(options, written_alike)]
  # Those that results have a column of are called otherwise by now.
  own$series <- header[renamed_series(header) %in% role$series]
  own$when <- intersect(role$when, header)
  own$measure <- measures_in(options$measure, header)
  Filter(length, own)
}
