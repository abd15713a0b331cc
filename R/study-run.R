#' Run a study
#'
#' Makes every step of a study, writes the named ones and the figures to a
#' folder, and puts that folder in place as a whole: it holds the former run or
#' the new one, whatever happens in between.
#'
#' A step whose verb, arguments, inputs and files are those of an earlier run is
#' not made again but taken from a store in the user's cache folder, by the
#' contents of the files and the version of the package; what hangs on a changed
#' step is recomputed.
#'
#' The folder has a table of each named step (`NAME.csv` with its metadata, and
#' what else `tables` asks for), which [read_periods()] reads back, each figure
#' (`NAME.png`), the account of each source (`NAME-account.txt`) and the rows
#' set aside (`NAME-set-aside.csv`, where there are any) and the records
#' (`NAME-records.csv.gz`, by which [run_changes()] compares runs), the report
#' that the study asks for, what was found in sentences (`findings.txt`), the
#' study itself, and `manifest.json`: the files that were read and written with
#' their sizes and MD5 sums, and the versions of R and of the package. The same
#' input gives the same bytes.
#'
#' @param study A study, from [read_study()], or the path of one.
#' @param out Path of the folder to write: one that is not there yet, is empty,
#'   or has an earlier run. `NULL` writes nothing.
#' @param fresh `TRUE` recomputes every step.
#' @return A tibble with a row for each source and step: `name`, `verb`, `rows`,
#'   `stored` (whether it was taken from the store) and `finding` (what was
#'   found, as a report says it). [study_result()] gives the table of a step.
#' @section Errors: As those of [read_study()]; those of the verbs, with the
#'   line of the step; `backfill_error_file` where the folder cannot be written,
#'   or has something else in it.
#' @seealso [study_script()].
#' @examplesIf requireNamespace("yaml", quietly = TRUE)
#' study <- read_study(demo_file("nights-study.yaml"))
#' done <- run_study(study)
#' done
#' study_result(done, "flags")
#' @export
run_study <- function(study, out = NULL, fresh = FALSE) {
  check_given()
  if (rlang::is_string(study)) {
    study <- read_study(study)
  }
  if (!inherits(study, "backfill_study")) {
    abort_backfill(
      "input", "`study` is {value_in_words(study)}, not a study.",
      ">" = "read_study() reads one."
    )
  }
  check_flag(fresh, "fresh")
  if (!is.null(out)) {
    out <- check_run_folder(out, study)
    for (type in study$tables) check_table_type(paste0("table.", type))
    for (type in study$report$formats) check_report_type(paste0("r.", type))
  }
  read <- files_of_study(study)
  made <- with_bar("Making the steps", function(report) {
    made_steps(study, fresh, read, report)
  })
  plots <- plots_of_study(study, made)
  for (figure in study$figures) check_files_unchanged(figure, study, read)
  run <- new_result(
    run_table(made), "study_run", facts_of_run(study, made, plots, read, out)
  )
  if (!is.null(out)) {
    write_run(run, study, made)
  }
  run
}

# What a run knows: the `results` by their names; of each that is `written` its
# name, note and file; the `figures`, each with the step that it is `of`; the
# files that were `read`; the `script` that does the same; and the `sections` of
# its report.
facts_of_run <- function(study, made, plots, read, out) {
  written <- Filter(function(step) step$named, study$steps)
  list(
    title = study$title, note = study$note,
    results = lapply(made, `[[`, "value"),
    written = lapply(unname(written), function(step) {
      file <- paste0(step$name, ".", study$tables[[1]])
      list(name = step$name, note = step$note, file = file)
    }),
    figures = Map(
      function(plot, figure) list(of = figure$uses, plot = plot), plots,
      study$figures
    ),
    read = read, script = study_script(study),
    sections = study$report$sections,
    sources = unlist(lapply(study$sources, full_paths, study)), out = out
  )
}

#' @rdname run_study
#' @param run What `run_study()` gave.
#' @param name The name of a source or a step.
#' @export
study_result <- function(run, name) {
  check_given()
  if (!inherits(run, "backfill_study_run")) {
    abort_backfill(
      "input", "`run` is {value_in_words(run)}, not a run.",
      ">" = "run_study() makes one."
    )
  }
  results <- facts(run)$results
  check_one_of(name, names(results), "name")
  results[[name]]
}

# The files of a step as R finds them from anywhere.
full_paths <- function(step, study) {
  files <- step$files
  local <- !is_address(files) & !is_absolute(files)
  files[local] <- file.path(study$folder, files[local])
  files
}

# For each source and step list(value, step, key, stored), by their names.
made_steps <- function(study, fresh, read, report) {
  steps <- c(study$sources, study$steps)
  values <- new.env(parent = topenv())
  before <- setwd(study$folder)
  on.exit(setwd(before))
  drop_old_results()
  made <- list()
  for (step in steps) {
    if (!is.null(report)) {
      report(length(made) / length(steps), sprintf("Making %s", step$name))
    }
    key <- key_of_step(step, study, lapply(made, `[[`, "key"), read)
    found <- if (!fresh) stored_result(key)
    stored <- !is.null(found)
    if (stored) {
      # What was warned of is still so.
      lapply(found$warned, rlang::cnd_signal)
    } else {
      found <- with_warnings(value_of_step(step, values, study))
      # Chunks are read here, where the study's files are found, since the run
      # gives their account whatever is made of them.
      if (is_chunked(found$value)) account(found$value)
      check_files_unchanged(step, study, read)
      store_result(found, key)
    }
    assign(step$name, found$value, envir = values)
    made[[step$name]] <- list(
      value = found$value, step = step, key = key, stored = stored
    )
  }
  made
}

# The sums of the files were taken before they were read, and are those of what
# was read only where they still are.
check_files_unchanged <- function(step, study, read) {
  now <- unname(tools::md5sum(as.character(full_paths(step, study))))
  changed <- which(now != sums_of_step(step, read))
  if (length(changed) > 0) {
    abort_backfill(
      "file",
      "{step$files[[changed[[1]]]]} was changed while the study read it.",
      ">" = "Run the study again once it is written."
    )
  }
}

# list(value, warned): what code gives, and the warnings that it came with.
with_warnings <- function(code) {
  seen <- new.env(parent = emptyenv())
  value <- withCallingHandlers(code, backfill_warning = function(cnd) {
    seen$warned <- c(seen$warned, list(cnd))
  })
  # Without what the conditions hold of the calls that they came from.
  warned <- lapply(seen$warned, function(cnd) {
    own <- setdiff(class(cnd), c("rlang_warning", "warning", "condition"))
    rlang::warning_cnd(own, message = conditionMessage(cnd))
  })
  list(value = value, warned = warned)
}

# The figures, which are written where a folder is asked for; what is wrong with
# one is said anyway.
plots_of_study <- function(study, made) {
  values <- list2env(lapply(made, `[[`, "value"), parent = topenv())
  before <- setwd(study$folder)
  on.exit(setwd(before))
  without_drawn(lapply(study$figures, value_of_step, values, study))
}

# What a call of verbs makes of the values that are there.
value_of_step <- function(step, values, study) {
  tryCatch(
    eval(step$call, values),
    backfill_error = function(cnd) {
      line <- line_of(study$text, step$path)
      rlang::abort(
        sprintf(
          "%s, line %s, \"%s\": %s", basename(study$file), line, step$name,
          rlang::cnd_message(cnd)
        ),
        class = unique(c("backfill_error_study", setdiff(
          class(cnd), c("rlang_error", "error", "condition")
        ))),
        argument = cnd$argument, call = entry_call()
      )
    }
  )
}

# Of records that are read in chunks those that are used.
rows_of_result <- function(x) {
  as.integer(
    if (is_read(x) && !is_records(x)) account(x)$rows_used else NROW(x)
  )
}

run_table <- function(made) {
  new_rows(
    name = names(made),
    verb = vapply(made, function(one) as.character(one$step$call[[1]]), ""),
    rows = vapply(made, function(one) rows_of_result(one$value), 0L),
    stored = vapply(made, `[[`, NA, "stored"),
    finding = vapply(made, function(one) finding_of(one$value), "")
  )
}
