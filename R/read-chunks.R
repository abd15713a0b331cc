# Delimited text larger than memory: cut at the ends of lines into chunks, each
# read as a file of its own. What a roll-up needs of them lies in a folder of
# temporary files from then on.

# Bytes of text in a chunk.
chunk_bytes <- function() getOption("backfill.chunk_bytes", 2^25)

read_chunked <- function(
  file, when, measures, series, zone, layout, source, rules, form,
  call = caller_env()
) {
  if (
    layout != "rows" || !is.null(source) || !is.character(file) || any(grepl(
      "^https?://", file
    ))
  ) {
    abort_backfill(
      "argument",
      paste(
        "`chunked` is TRUE, but only files with a record in each row can be",
        "read in chunks."
      ),
      i = "No other `layout`, no `source`, no address and no database.",
      call = call
    )
  }
  files <- find_files(file, tempdir(), call)
  collect <- function() {
    folder <- tempfile("backfill-chunks-")
    dir.create(folder)
    complete <- FALSE
    on.exit(if (!complete) unlink(folder, recursive = TRUE))
    found <- with_bar("Reading", function(report) {
      # One bar for all of them.
      old <- options(backfill.progress = FALSE)
      on.exit(options(old))
      collect_chunks(
        files, when, measures, series, zone, rules, form, folder, report, call
      )
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
    vapply(files, `[[`, "", "shown"), collect, when, renamed_series(series),
    check_measures(measures, call), zone
  )
}

# See collected().
collect_chunks <- function(
  files, when, measures, series, zone, rules, form, folder, report, call
) {
  scratch <- file.path(folder, "scratch")
  dir.create(scratch)
  state <- list(
    count = 0L, names = NULL, highest = numeric(), accounts = list()
  )
  sizes <- vapply(files, function(file) file.size(file$path), 0)
  done <- 0
  for (file in files) {
    cutter <- open_chunks(file, form, scratch, call)
    repeat {
      part <- cutter$read()
      if (is.null(part)) break
      raw <- read_delimited(
        list(path = part$path, shown = file$shown), cutter$form, scratch, call
      )
      if (raw$rows > 0) {
        x <- build_records(
          at_lines(raw, part$before), when, measures, series, zone, "rows",
          rules, call
        )
        state <- keep_chunk(state, x, rules, folder, call)
      }
      if (!is.null(report)) {
        report((done + part$share * file.size(file$path)) / sum(sizes))
      }
    }
    done <- done + file.size(file$path)
  }
  if (state$count == 0) {
    abort_backfill(
      "file",
      sprintf(
        "%s has a header but no rows that could be used.",
        basename(files[[1]]$shown)
      ),
      call = call
    )
  }
  unlink(scratch, recursive = TRUE)
  rank <- if (length(series) == 0) {
    1L
  } else {
    do.call(order, c(unname(as.list(state$names)), method = "radix"))
  }
  list(
    chunk = chunk_reader(folder, order(rank), names(measures)),
    keep = chunk_keeper(folder, order(rank), names(measures)),
    count = state$count,
    names = vctrs::vec_slice(state$names, rank), ends = range(
      state$lowest, state$highest
    ),
    dates = state$dates, account = join_accounts(state$accounts)
  )
}

# Gives the i-th chunk, its series by their `place` in the order of names, and
# the values of a measure, or none.
chunk_reader <- function(folder, place, measures) {
  force(place)
  function(i, name) {
    part <- readRDS(chunk_file(folder, i, 0))
    part$series <- place[part$series]
    if (!is.null(name)) {
      part$value <- readRDS(chunk_file(folder, i, match(name, measures)))
    }
    part
  }
}

# Puts away what a measure of the i-th chunk became, and gives a function that
# fetches it, see src/parts.h.
chunk_keeper <- function(folder, place, measures) {
  reader <- chunk_reader(folder, place, measures)
  function(i, name, value) {
    file <- chunk_file(folder, i, -match(name, measures))
    saveRDS(value, file, compress = FALSE)
    function() c(reader(i, NULL), list(value = readRDS(file)))
  }
}

# Of column 0, the times and series, or that of a measure by its number.
chunk_file <- function(folder, i, column) {
  file.path(
    folder, sprintf("%d-%d.rds", i, column)
  )
}

# Puts a chunk's records into temporary files, and what is to be known of it
# into `state`.
keep_chunk <- function(state, x, rules, folder, call) {
  role <- facts(x)
  when <- x[[role$when]]
  dates <- inherits(when, "Date")
  if (!is.null(state$dates) && dates != state$dates) {
    abort_backfill(
      "when", "Some parts of the file have dates only, others have times.",
      ">" = "Read it without `chunked`, or make the column one of its kind.",
      call = call
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
    check_chunk_order(survey$each, state$highest[known], index$names, call)
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
check_chunk_order <- function(survey, before, names, call) {
  bad <- which(!survey$in_order | (!is.na(before) & survey$lowest <= before))
  if (length(bad) > 0) {
    at <- bad[[1]]
    same <- survey$in_order[[at]] && survey$lowest[[at]] == before[[at]]
    abort_backfill(
      "duplicates",
      sprintf(
        "%s%s.",
        if (same) {
          "Two parts of the file have a record for the same time"
        } else {
          "The file is not in order of time"
        },
        if (length(names) > 0) {
          sprintf(
            " in the series %s", names_of_lines(vctrs::vec_slice(names, at))
          )
        } else {
          ""
        }
      ),
      i = paste(
        "Read in chunks, records of the same series and time are found only",
        "where each series is in order of time."
      ),
      ">" = paste(
        "Set `duplicates` to \"keep\" where each is a record of its own, or",
        "read the file without `chunked`."
      ),
      call = call
    )
  }
}

# The rows of a chunk by the lines of the file.
at_lines <- function(raw, before) {
  at <- raw$at
  raw$at <- function(rows) {
    found <- at(rows)
    found$line <- found$line + as.integer(before)
    found
  }
  raw$rejected$line <- raw$rejected$line + as.integer(before)
  raw
}

# list(form, read): `read()` gives the next chunk as a file with the header,
# list(path, before, share), NULL at the end.
open_chunks <- function(file, form, scratch, call) {
  if (file_format(file$path) == "gzip") {
    file$path <- gunzip(file, scratch, call)
  }
  file$path <- in_utf8(file, form$encoding, scratch, call)
  if (file_format(file$path) != "text") {
    abort_backfill(
      "file",
      sprintf(
        "%s is no delimited text, and cannot be read in chunks.",
        basename(file$shown)
      ),
      call = call
    )
  }
  form$delimiter <- form$delimiter %||% find_delimiter(file$path, form)
  form["encoding"] <- list(NULL)
  form$single <- TRUE
  lines <- first_records_cpp(
    file$path, form$delimiter, form$quote, form$skip, form$header_rows
  )$next_line - 1
  size <- file.size(file$path)
  head <- readBin(file$path, "raw", min(size, 2^20))
  header <- head[
    seq_len(c(which(head == as.raw(10L)), length(head))[[max(lines, 1)]])
  ]
  at <- length(header)
  before <- 0
  list(form = form, read = function() {
    if (at >= size) {
      return(NULL)
    }
    path <- file.path(scratch, "chunk")
    # A rest that is short is read with the last, as a few rows alone may tell
    # nothing of how they are written.
    bytes <- if (size - at < 1.5 * chunk_bytes()) {
      size - at + 1
    } else {
      chunk_bytes()
    }
    done <- write_chunk_cpp(file$path, at, bytes, form$quote, header, path)
    here <- before
    at <<- done[[1]]
    before <<- before + done[[2]]
    list(path = path, before = here, share = at / size)
  })
}

# The accounts of all chunks as one.
join_accounts <- function(accounts) {
  all <- function(name) lapply(accounts, `[[`, name)
  sources <- vctrs::vec_rbind(!!!all("sources"))
  rows <- tapply(
    sources$rows, factor(sources$source, unique(sources$source)), sum
  )
  missing <- vctrs::vec_rbind(!!!all("missing"))
  counted <- vctrs::vec_group_loc(missing[c("measure", "reason")])
  missing <- tibble::tibble(
    counted$key,
    count = vapply(counted$loc, function(at) sum(missing$count[at]), 0L)
  )
  out <- accounts[[1]]
  out$sources <- tibble::tibble(source = names(rows), rows = as.integer(rows))
  out$set_aside <- vctrs::vec_rbind(!!!all("set_aside"))
  out$missing <- missing
  for (name in c("rows_read", "rows_used", "rows_merged", "blank_lines")) {
    out[[name]] <- sum(unlist(all(name)))
  }
  out$duplicates <- Reduce(`+`, all("duplicates"))
  out$first <- min(do.call(c, all("first")))
  out$last <- max(do.call(c, all("last")))
  out$notes <- join_notes(all("notes"))
  out
}

# Notes that differ by the rows that they count are added up.
join_notes <- function(notes) {
  notes <- unlist(notes)
  form <- gsub("[0-9,]+ rows?", "# rows", notes)
  vapply(unique(form), function(one) {
    same <- notes[form == one]
    counts <- regmatches(same, gregexpr("[0-9,]+(?= rows?)", same, perl = TRUE))
    total <- Reduce(
      `+`, lapply(counts, function(count) as.numeric(gsub(",", "", count)))
    )
    for (count in total) {
      one <- sub("# rows", count_of(count, "row"), one, fixed = TRUE)
    }
    one
  }, "", USE.NAMES = FALSE)
}
