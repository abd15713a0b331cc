#' What changed between two runs of a study
#'
#' Compares the folders of two runs: records that were added, revised or are
#' gone; figures of the tables that moved; periods that are flagged now and were
#' not before, and the other way round.
#'
#' Records are the same where their time, their series and, if there is one, the
#' day of their publication are the same; the n-th of several such records is
#' compared with the n-th. Rows of tables are the same where what names them is:
#' series, measure, period, position, lag. A figure moved where it differs by
#' more than a billionth of itself, or is there in one run alone.
#'
#' @param old,new Paths of the folders of two runs, as `run_study(out = )` or
#'   `backfill study run --out` wrote them.
#' @return A table with a row per change: `table` (of a source or a step),
#'   `what` (`"record added"`, `"record revised"`, `"record gone"`, `"row
#'   added"`, `"row gone"`, `"moved"`, `"flagged"`, `"cleared"`, `"table
#'   added"`, `"table gone"`), `where` (what names the row), `column`, `before`
#'   and `after` as text with every digit, and `percent`, the change of a figure
#'   in percent of what it was, or `NA`. It prints as sentences first.
#' @section Errors: `backfill_error_file` where a folder has no run, or a table
#'   of it cannot be read.
#' @seealso [run_study()].
#' @examplesIf requireNamespace("yaml", quietly = TRUE)
#' folder <- tempfile("isles-")
#' dir.create(folder)
#' file.copy(demo_file(c("inns.csv", "landings.csv")), folder)
#' study <- file.path(folder, "nights-study.yaml")
#' file.copy(demo_file("nights-study.yaml"), study)
#' run_study(study, file.path(folder, "june"))
#'
#' # A figure is revised, and the study is run again.
#' file <- file.path(folder, "inns.csv")
#' lines <- readLines(file)
#' lines[[60]] <- sub(",([0-9]+),", ",1\\1,", lines[[60]])
#' writeLines(lines, file)
#' run_study(study, file.path(folder, "july"))
#' run_changes(file.path(folder, "june"), file.path(folder, "july"))
#' @export
run_changes <- function(old, new) {
  runs <- list(
    old = manifest_of_run(old, "old"), new = manifest_of_run(new, "new")
  )
  places <- c(old, new)
  records <- changes_of_all("source", runs, function(name) {
    changes_of_records(name, places, runs$new$sources)
  })
  tables <- changes_of_all("table", runs, function(name) {
    changes_of_table(name, places)
  })
  found <- vctrs::vec_rbind(no_changes(), !!!records, !!!tables)
  new_result(found, "run_changes", list(
    kept = unlist(lapply(runs, function(run) {
      vapply(run$sources, `[[`, NA, "kept")
    }))
  ))
}

no_changes <- function() {
  changes_found("", "", "", "", "", "")[0, ]
}

# A change in percent is given of amounts alone (`plain`): of what is a change
# itself it would tell nothing.
changes_found <- function(
  table, what, where, column, before, after, plain = TRUE
) {
  was <- suppressWarnings(as.numeric(before))
  is <- suppressWarnings(as.numeric(after))
  known <- plain & !is.na(was) & was != 0
  tibble::tibble(
    table = table, what = what, where = where, column = column,
    before = before, after = after,
    percent = ifelse(known, 100 * (is - was) / abs(was), NA)
  )
}

manifest_of_run <- function(folder, argument, call = caller_env()) {
  file <- if (rlang::is_string(folder)) file.path(folder, manifest_name) else ""
  manifest <- if (file_kind_cpp(file) == "regular") tryCatch(
    jsonlite::fromJSON(file, simplifyVector = FALSE),
    error = function(cnd) NULL
  )
  if (is.null(manifest$sources)) {
    abort_backfill(
      "file", sprintf(
        "`%s` is %s, which is not the folder of a run.", argument,
        value_in_words(folder)
      ),
      ">" = "run_study(out = ), or `backfill study run --out`, writes one.",
      call = call
    )
  }
  names(manifest$sources) <- vapply(manifest$sources, `[[`, "", "name")
  manifest
}

# What changed in each source or table; those that one run alone has are told so.
changes_of_all <- function(noun, runs, changes_of) {
  names <- lapply(runs, function(run) {
    if (noun == "source") names(run$sources) else names_of_tables(run)
  })
  apart <- function(name, what) {
    changes_found(name, paste(noun, what), "", "", NA_character_, NA_character_)
  }
  c(
    lapply(intersect(names$old, names$new), changes_of),
    lapply(setdiff(names$new, names$old), apart, "added"),
    lapply(setdiff(names$old, names$new), apart, "gone")
  )
}

# In the order of the steps, each in the first of the formats it is in.
names_of_tables <- function(run) {
  files <- vapply(run$written, `[[`, "", "file")
  tables <- intersect(
    sub("-metadata[.]json$", "", files),
    c(files, grep("[.](parquet|xlsx)$", files, value = TRUE))
  )
  kept <- paste0(tables, "-metadata.json") %in% files |
    grepl("[.](parquet|xlsx)$", tables)
  tables <- tables[kept]
  steps <- vapply(run$steps, `[[`, "", "name")
  order <- order(match(sub("[.][a-z]+$", "", tables), steps))
  tables <- tables[order]
  tables[!duplicated(sub("[.][a-z]+$", "", tables))]
}

# Records ----------------------------------------------------------------------

records_file <- function(folder, name) {
  file.path(folder, paste0(name, "-records.csv.gz"))
}

changes_of_records <- function(name, places, sources) {
  files <- records_file(places, name)
  if (!all(file.exists(files))) {
    return(NULL)
  }
  rows <- lapply(files, records_kept)
  measures <- intersect(
    unlist(sources[[name]]$measures),
    intersect(names(rows[[1]]), names(rows[[2]]))
  )
  changes_of_rows(
    name, rows, measures, unlist(sources[[name]]$keys),
    c(added = "record added", gone = "record gone", moved = "record revised")
  )
}

records_kept <- function(file) {
  scratch <- tempfile("records-")
  dir.create(scratch)
  on.exit(unlink(scratch, recursive = TRUE))
  text <- gunzip(list(path = file, shown = file), scratch, caller_env())
  data.table::fread(
    file = text, sep = ",", header = TRUE, colClasses = "character",
    data.table = FALSE, na.strings = "", strip.white = FALSE,
    encoding = "UTF-8", showProgress = FALSE
  )
}

# Tables -----------------------------------------------------------------------

# What names the rows of results; the rest is what they say.
naming_columns <- c(
  "measure", "period", "position", "row", "column", "lag", "on", "series",
  "first", "second", "candidate", "ahead", "horizon", "within", "rank", "group",
  "from", "cycle", "type"
)

changes_of_table <- function(name, places) {
  tables <- lapply(file.path(places, name), read_periods)
  shared <- intersect(names(tables[[1]]), names(tables[[2]]))
  keys <- intersect(c(facts(tables[[2]])$series, naming_columns), shared)
  said <- setdiff(shared, c(keys, "score", "n_prior"))
  rows <- lapply(tables, function(table) {
    shown <- with_labels(plain_tibble(table)[shared], table)
    as.data.frame(
      lapply(exact_text(shown), as.character), optional = TRUE,
      stringsAsFactors = FALSE
    )
  })
  found <- changes_of_rows(
    sub("[.][a-z]+$", "", name), rows, said, keys,
    c(added = "row added", gone = "row gone", moved = "moved"),
    plain = setdiff(said, no_amounts(tables[[2]]))
  )
  if ("flag" %in% said) as_flag_changes(found) else found
}

# Columns that tell of changes, shares and counts.
no_amounts <- function(table) {
  added <- facts(table)$added
  changes <- vapply(added, function(note) {
    note$change || !is.null(note$unit)
  }, NA)
  units <- if (is_periods(table)) character() else names(column_units(table))
  c(
    names(added)[changes], units, "n", "coverage", "deviation", "percent", "sd",
    "p", "coefficient", "lower", "upper"
  )
}

# A flag that is new, or not there any more.
as_flag_changes <- function(found) {
  found <- found[found$column != "judgement", ]
  flag <- found$column == "flag"
  on <- flag & found$after %in% "TRUE"
  off <- flag & found$before %in% "TRUE"
  found$what[on] <- "flagged"
  found$what[off] <- "cleared"
  found[!flag | on | off, ]
}

# Rows of text matched by their keys, the n-th of several with the n-th.
changes_of_rows <- function(
  table, rows, columns, keys, words, plain = columns
) {
  names <- lapply(rows, row_names_of, keys)
  numbered <- lapply(names, function(names) {
    paste(names, data.table::rowidv(names))
  })
  in_old <- match(numbered[[2]], numbered[[1]])
  added <- which(is.na(in_old))
  gone <- which(!numbered[[1]] %in% numbered[[2]])
  both <- which(!is.na(in_old))
  moved <- lapply(columns, function(column) {
    before <- rows[[1]][[column]][in_old[both]]
    after <- rows[[2]][[column]][both]
    at <- which(differs(before, after))
    changes_found(
      rep(table, length(at)), rep(words[["moved"]], length(at)),
      names[[2]][both[at]], rep(column, length(at)), before[at], after[at],
      column %in% plain
    )
  })
  # A row that one run alone has, with its first figure.
  first <- intersect(c("value", columns), columns)[1]
  whole <- function(at, side, word) {
    figure <- rows[[side]][[first]][at] %||% rep(NA_character_, length(at))
    none <- rep(NA_character_, length(at))
    changes_found(
      rep(table, length(at)), rep(word, length(at)), names[[side]][at],
      rep(first, length(at)), if (side == 1) figure else none,
      if (side == 1) none else figure
    )
  }
  vctrs::vec_rbind(
    whole(added, 2, words[["added"]]), whole(gone, 1, words[["gone"]]), !!!moved
  )
}

row_names_of <- function(rows, keys) {
  keys <- intersect(keys, names(rows))
  if (length(keys) == 0) {
    return(rep("", nrow(rows)))
  }
  parts <- lapply(rows[keys], function(part) ifelse(is.na(part), "", part))
  do.call(paste, c(unname(parts), sep = ", "))
}

# As text, or as figures that are further apart than rounding brings them.
differs <- function(before, after) {
  blank <- is.na(before) | is.na(after)
  differ <- ifelse(blank, is.na(before) != is.na(after), before != after)
  at <- which(differ & !blank)
  was <- suppressWarnings(as.numeric(before[at]))
  is <- suppressWarnings(as.numeric(after[at]))
  near <- !is.na(was) & !is.na(is) & abs(is - was) <= 1e-9 * abs(was)
  differ[at[near]] <- FALSE
  differ
}

# In words ---------------------------------------------------------------------

#' @export
describe.backfill_run_changes <- function(x, ...) {
  if (nrow(x) == 0) {
    return("Nothing changed between the two runs.")
  }
  said <- unlist(lapply(unique(x$table), function(name) {
    rows <- plain_tibble(x)[x$table == name, ]
    c(
      changed_records(name, rows), changed_rows(name, rows),
      moved_figures(name, rows), changed_flags(name, rows)
    )
  }))
  c(said, if (!all(facts(x)$kept)) {
    "Records that are read in chunks are not compared."
  })
}

changed_records <- function(name, rows) {
  counts <- vapply(c("added", "revised", "gone"), function(what) {
    sum(rows$what == paste("record", what))
  }, 0L)
  if (sum(counts) > 0) {
    sprintf(
      "Records of %s: %s.", name,
      in_words(paste(thousands(counts), names(counts))[counts > 0])
    )
  }
}

changed_rows <- function(name, rows) {
  counts <- c(
    added = sum(rows$what == "row added"), gone = sum(rows$what == "row gone")
  )
  c(
    if (sum(counts) > 0) sprintf(
      "%s: %s.", name,
      in_words(paste(
        vapply(counts, count_of, "", "row"), names(counts)
      )[counts > 0])
    ),
    if (any(grepl("^(table|source) ", rows$what))) {
      sprintf("%s: %s.", name, sub("^.* ", "", rows$what[[1]]))
    }
  )
}

# The largest move in percent is named.
moved_figures <- function(name, rows) {
  moved <- rows[rows$what == "moved", ]
  if (nrow(moved) == 0) {
    return(NULL)
  }
  said <- sprintf("%s: %s moved", name, count_of(nrow(moved), "figure"))
  if (all(is.na(moved$percent))) {
    return(paste0(said, "."))
  }
  first <- moved[which.max(abs(moved$percent)), ]
  figure <- function(text) trimws(format_figures(as.numeric(text)))
  sprintf(
    "%s, most of all the %s of %s, from %s to %s (%s).", said, first$column,
    first$where, figure(first$before), figure(first$after),
    format_cells(first$percent, "%")
  )
}

changed_flags <- function(name, rows) {
  of <- function(what, words) {
    where <- rows$where[rows$what == what]
    if (length(where) > 0) {
      sprintf("%s: %s: %s.", name, words, in_words(where, 6))
    }
  }
  c(
    of("flagged", "flagged now and not before"),
    of("cleared", "not flagged any more")
  )
}

#' @export
column_units.backfill_run_changes <- function(x) c(percent = "%")

#' @export
table_cells.backfill_run_changes <- function(x, n = Inf) {
  shown <- first_rows_of(x, n)
  for (side in c("before", "after")) {
    number <- suppressWarnings(as.numeric(shown[[side]]))
    shown[[side]] <- ifelse(
      is.na(number), shown[[side]], trimws(vapply(number, format_figures, ""))
    )
  }
  text_cells(shown, column_units(x))
}
