# Files larger than memory, part by part: delimited text cut at the ends of
# lines, each part read as a file of its own, and files of Parquet one by one.
# What a roll-up needs of them lies in a folder of temporary files from then on.

read_chunked <- function(file, source, asked, form) {
  far <- !is.character(file) || any(grepl("^https?://", file))
  if (asked$layout != "rows" || !is.null(source) || far) {
    abort_backfill(
      "argument",
      "`chunked` is TRUE, but only files with a record in each row can be read",
      "in chunks.",
      i = "No other `layout`, no `source`, no address and no database."
    )
  }
  files <- find_files(file, tempdir())
  collect <- function() {
    folder <- tempfile("backfill-chunks-")
    dir.create(folder)
    complete <- FALSE
    on.exit(if (!complete) unlink(folder, recursive = TRUE))
    found <- with_bar("Reading", function(report) {
      collect_chunks(files, asked, form, folder, report)
    })
    complete <- TRUE
    found$folder <- folder
    # The temporary files go with the source.
    reg.finalizer(
      environment(found$chunk), function(e) unlink(folder, recursive = TRUE),
      onexit = TRUE
    )
    found
  }
  new_chunked(
    vapply(files, `[[`, "", "shown"), collect, asked$when,
    renamed_series(asked$series), asked$measures, asked$zone,
    asked$rules$year_start
  )
}

# See collected().
collect_chunks <- function(files, asked, form, folder, report) {
  scratch <- file.path(folder, "scratch")
  dir.create(scratch)
  state <- list(
    count = 0L, names = NULL, highest = numeric(), accounts = list()
  )
  sizes <- vapply(files, function(file) file.size(file$path), 0)
  done <- 0
  for (file in files) {
    read <- open_chunks(file, form, scratch)
    while (!is.null(part <- read())) {
      if (part$raw$rows > 0) {
        x <- build_records(part$raw, asked)
        state <- keep_chunk(state, x, asked$rules, folder)
      }
      if (!is.null(report)) {
        report((done + part$share * file.size(file$path)) / sum(sizes))
      }
    }
    done <- done + file.size(file$path)
  }
  unlink(scratch, recursive = TRUE)
  if (state$count == 0) {
    abort_backfill(
      "file",
      "{basename(files[[1]]$shown)} has a header but no rows that could be",
      "used."
    )
  }
  new_collected(state, folder, asked)
}

# What reading in chunks has found: functions that give the i-th chunk back and
# keep something beside it, how many there are, the series in order, the first
# and the last time, whether these are dates, and the account of all.
new_collected <- function(state, folder, asked) {
  rank <- if (length(asked$series) == 0) 1L else
    do.call(order, c(unname(as.list(state$names)), method = "radix"))
  measures <- names(asked$measures)
  list(
    chunk = chunk_reader(folder, order(rank), measures),
    keep = chunk_keeper(folder, order(rank), measures),
    count = state$count, names = vctrs::vec_slice(state$names, rank),
    ends = range(state$lowest, state$highest), dates = state$dates,
    account = join_accounts(state$accounts)
  )
}

# Puts a chunk's records into temporary files, and what is to be known of it
# into `state`.
keep_chunk <- function(state, x, rules, folder) {
  role <- facts(x)
  when <- x[[role$when]]
  dates <- inherits(when, "Date")
  if (!is.null(state$dates) && dates != state$dates) {
    abort_backfill(
      "when", "Some parts of the file have dates only, others have times.",
      ">" = "Read it without `chunked`, or make the column one of its kind."
    )
  }
  index <- series_index(x, role$series)
  names <- if (is.null(state$names)) {
    index$names
  } else {
    vctrs::vec_unique(vctrs::vec_c(state$names, index$names))
  }
  known <- vctrs::vec_match(index$names, names)
  survey <- survey_cpp(
    one_part(when, index$index), unit_of_times(when), -Inf, 0, nrow(index$names)
  )
  if (rules$duplicates != "keep") {
    check_chunk_order(survey$each, state$highest[known], index$names)
  }
  highest <- c(state$highest, rep(-Inf, nrow(names) - length(state$highest)))
  highest[known] <- pmax(highest[known], survey$each$highest)
  i <- state$count + 1L
  saveRDS(
    list(when = when, series = known[index$index]), chunk_file(folder, i, 0),
    compress = FALSE
  )
  measures <- names(role$measures)
  for (k in seq_along(measures)) {
    saveRDS(
      as.double(x[[measures[[k]]]]), chunk_file(folder, i, k), compress = FALSE
    )
  }
  list(
    count = i, names = names, highest = highest,
    lowest = min(state$lowest, survey$all$lowest), dates = dates,
    accounts = c(state$accounts, list(role$account))
  )
}

# Records of one series and time in two chunks are found only where each series
# is in order of time.
check_chunk_order <- function(survey, before, names) {
  bad <- which(!survey$in_order | (!is.na(before) & survey$lowest <= before))
  if (length(bad) > 0) {
    at <- bad[[1]]
    same <- survey$in_order[[at]] && survey$lowest[[at]] == before[[at]]
    where <- if (length(names) > 0) {
      paste(" in the series", names_of_lines(vctrs::vec_slice(names, at)))
    }
    abort_backfill(
      "duplicates",
      if (same) {
        "Two parts of the file have a record for the same time{where}."
      } else {
        "The file is not in order of time{where}."
      },
      i = "Read in chunks, records of the same series and time are found only",
      "where each series is in order of time.",
      ">" = "Set `duplicates` to \"keep\" where each is a record of its own,",
      "or read the file without `chunked`."
    )
  }
}

check_nothing_renamed <- function(rename) {
  if (!is.null(rename)) {
    abort_backfill(
      "argument",
      "`rename` is given, but the records of a file that is read in chunks are",
      "never together.",
      ">" = "Rename the measures once they are rolled up: rename_measures()."
    )
  }
}

# What records that are read in chunks cannot have.
check_not_chunked <- function(known, line_number, items, recode) {
  given <- c(if (!is.null(items)) "items", if (!is.null(recode)) "recode")
  if (length(given) > 0) {
    abort_backfill(
      "argument",
      "`{given[[1]]}` is given, but a file that is read in chunks is taken as",
      "it stands.",
      ">" = "Leave it out, or read the file without `chunked`."
    )
  }
  if (!is.null(line_number)) {
    abort_backfill(
      "argument",
      "`line_number` is given, but records that are read in chunks have no",
      "columns.",
      ">" = "Leave it out, or read them without `chunked`."
    )
  }
  if (!is.null(known)) {
    abort_backfill(
      "argument",
      "`known` is given, but versions that are read in chunks are not",
      "compared.",
      ">" = "Read the file without `chunked`."
    )
  }
}
