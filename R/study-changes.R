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
#'   `what` (`"record added"`, `"record revised"`, `"record gone"`,
#'   `"row added"`, `"row gone"`, `"moved"` (a figure), `"changed"` (a text,
#'   such as a standing), `"choice"` (the form of a season, or what a series is
#'   carried on by, which the figures decided otherwise), `"flagged"`,
#'   `"cleared"`, and `"table added"`, `"column gone"` and the like for what one
#'   run alone has), `where` (what names the row), `column`, `before` and
#'   `after` as text with every digit, and `percent`, the change of a figure in
#'   percent of what it was, or `NA`. It prints as sentences first.
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
  check_given()
  runs <- list(
    old = manifest_of_run(old, "old"), new = manifest_of_run(new, "new")
  )
  places <- c(old, new)
  sources <- lapply(runs, function(run) names(run$sources))
  records <- changes_of_all("source", sources, function(name) {
    changes_of_records(name, places, runs$new$sources)
  })
  files <- lapply(runs, files_of_tables)
  tables <- changes_of_all("table", lapply(files, names), function(name) {
    changes_of_table(name, file.path(
      places, c(files$old[[name]], files$new[[name]])
    ))
  })
  found <- vctrs::vec_rbind(no_changes(), !!!records, !!!tables)
  new_result(found, "run_changes", list(
    kept = unlist(lapply(runs, function(run) {
      vapply(run$sources, `[[`, NA, "kept")
    })),
    lacking = lacking_records(runs, places)
  ))
}

# Sources whose records were kept in a run, but are no longer there.
lacking_records <- function(runs, places) {
  unlist(Map(function(run, place) {
    kept <- names(Filter(function(source) source$kept, run$sources))
    kept[!file.exists(records_file(place, kept))]
  }, runs, places))
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
  new_rows(
    table = table, what = what, where = where, column = column,
    before = before, after = after,
    percent = ifelse(known, 100 * (is - was) / abs(was), NA_real_)
  )
}

manifest_of_run <- function(folder, argument) {
  manifest <- if (rlang::is_string(folder)) read_manifest(folder)
  if (is.null(manifest)) {
    abort_backfill(
      "file",
      "`{argument}` is {value_in_words(folder)}, which is not the folder of a",
      "run.",
      ">" = "run_study(out = ), or `backfill study run --out`, writes one."
    )
  }
  names(manifest$sources) <- vapply(manifest$sources, `[[`, "", "name")
  manifest
}

# What changed in each source or table by the `names` of the two runs; those
# that one run alone has are told so.
changes_of_all <- function(noun, names, changes_of) {
  apart <- function(name, what) {
    changes_found(name, paste(noun, what), "", "", NA_character_, NA_character_)
  }
  c(
    lapply(intersect(names$old, names$new), changes_of),
    lapply(setdiff(names$new, names$old), apart, "added"),
    lapply(setdiff(names$old, names$new), apart, "gone")
  )
}

# The file of each table by its step, in their order; of several formats one.
files_of_tables <- function(run) {
  files <- vapply(run$written, `[[`, "", "file")
  described <- "-metadata[.]json$"
  tables <- c(
    sub(described, "", grep(described, files, value = TRUE)),
    grep("[.](parquet|xlsx)$", files, value = TRUE)
  )
  names(tables) <- sub("[.][a-z]+$", "", tables)
  steps <- vapply(run$steps, `[[`, "", "name")
  as.list(tables[intersect(steps, names(tables))])
}
