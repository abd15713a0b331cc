#' Read a study
#'
#' A study is a file that names records, what is done with them step by step,
#' and the figures to draw, so that the whole analysis can be run again, next
#' month or by somebody else. It is YAML 1.2, written by hand or by
#' `backfill study draft`; nothing in it is run as code.
#'
#' These are its keys:
#'
#' * `backfill: 1` comes first: the version of the format.
#' * `title` is text.
#' * `records` has an entry for each source, by a name of your choice: `file`
#'   (one or several, as the study's folder sees them), and the arguments of
#'   [read_records()]; or `database`, and those of [records_at()].
#' * `calendar` has the arguments of [calendar()]; a `roll_up` without `every`
#'   uses it.
#' * `steps` is a list. Each step is a verb with its arguments, such as
#'   `roll_up: {every: month}`, and works on what the step before gave, or on
#'   what `from` names: records, an earlier step by its `name`, or a list of
#'   several for verbs that take several. A step with a `name` is written out.
#' * `figures` is a list: `of` names a step; the other keys are `name` and the
#'   arguments of the figure, such as `type`.
#' * `events` is a file with the columns date and note, which are marked in the
#'   figures of periods.
#' * `tables` is the formats that tables are written in: `csv`, `xlsx`,
#'   `parquet`, or several; CSV where nothing is said.
#' * `report: true` lets a run write a report, `report.html`; or `report` has
#'   the `formats` of it (`html`, `md`, `pdf`), and `sections`, the steps in the
#'   order in which it tells of them.
#' * `note` is text of your own, here and beside a step; the report has it.
#'
#' Arguments have the names that they have in R. A value is a number, a text,
#' `true` or `false`, a list `[a, b]`, or a map `{a: 1}` where R takes a named
#' vector. An argument that is another result, such as the `index` of
#' [deseasonalise()], is the name of a step. Formulas of [add_measures()] are
#' text, and arithmetic alone.
#'
#' @section What a study may touch: It reads files in its own folder and
#'   subfolders, after following links, and nothing else unless `outside` allows
#'   it; that goes for web addresses (`https://...`) too. It is no longer than
#'   1 MB, and has no YAML tags, anchors or references.
#'
#' @param file Path of a study.
#' @param outside `TRUE` allows it to read files outside its folder, and
#'   addresses.
#' @return A study, which prints what it does; [run_study()] runs it.
#' @section Errors: `backfill_error_file` where the file is not there;
#'   `backfill_error_study` with every mistake in it, each with its line, what
#'   was expected and the nearest known word; `backfill_error_package` where the
#'   package yaml is not installed.
#' @seealso [run_study()], [study_script()].
#' @examplesIf requireNamespace("yaml", quietly = TRUE)
#' read_study(demo_file("nights-study.yaml"))
#' @export
read_study <- function(file, outside = FALSE) {
  check_given()
  check_flag(outside, "outside")
  if (!rlang::is_string(file) || file_kind_cpp(file) != "regular") {
    abort_backfill(
      "file", "`file` is {value_in_words(file)}; there is no such file."
    )
  }
  shown <- basename(file)
  check_study_size(file.size(file), shown)
  text <- study_text(file)
  found <- load_yaml(text, shown)
  faults <- new_faults(text)
  check_study_version(found, shown)
  allowed <- list(
    folder = normalizePath(dirname(file)), outside = outside, faults = faults,
    seen = new.env(parent = emptyenv())
  )
  study <- planned_study(found, allowed)
  stop_faults(faults, shown)
  new_study(study, file, text, outside)
}

study_text <- function(file) {
  text <- readLines(file, warn = FALSE, encoding = "UTF-8")
  text <- enc2utf8(sub("^\ufeff", "", text))
  if (!all(validUTF8(text))) {
    abort_backfill("study", "{basename(file)} is not UTF-8 text.")
  }
  text
}

# What a study is: its title and note, named lists of `sources`, `steps` and
# `figures`, each with the call that makes it and what that uses, the formats of
# its `tables`, and its `report`: list(formats, sections), or NULL.
new_study <- function(study, file, text, outside) {
  structure(
    c(study, list(
      file = normalizePath(file), folder = normalizePath(dirname(file)),
      text = text, outside = outside
    )),
    class = "backfill_study"
  )
}

check_study_version <- function(found, shown) {
  if (!is.list(found) || is.null(names(found)) ||
        names(found)[[1]] != "backfill") {
    abort_backfill(
      "study", "{shown} is not a study.",
      i = "The first line of a study is \"backfill: 1\"."
    )
  }
  if (!identical(as.numeric(found$backfill), 1)) {
    abort_backfill(
      "study",
      "{shown} is of version {value_in_words(found$backfill)} of the format;",
      "this is version 1."
    )
  }
}

study_keys <- c(
  "backfill", "title", "note", "records", "calendar", "steps", "figures",
  "events", "tables", "report"
)

# list(title, note, sources, calendar, steps, figures) of what the file holds;
# faults are added to those allowed$faults has.
planned_study <- function(found, allowed) {
  check_keys(found, study_keys, list(), allowed$faults)
  texts <- lapply(c(title = "title", note = "note"), function(key) {
    text_of_study(found[[key]], list(key), allowed$faults)
  })
  sources <- planned_sources(found$records, allowed)
  calendar <- planned_calendar(found$calendar, allowed)
  steps <- planned_steps(found$steps, names(sources), calendar, allowed)
  figures <- planned_figures(found$figures, steps, found$events, allowed)
  c(texts, list(
    sources = sources, calendar = calendar, steps = steps, figures = figures,
    tables = planned_tables(found$tables, allowed$faults),
    report = planned_report(found$report, steps, allowed$faults)
  ))
}

text_of_study <- function(value, path, faults) {
  if (!is.null(value) && !rlang::is_string(value)) {
    faults$add(path, sprintf("\"%s\" must be text.", path[[length(path)]]))
  }
  value
}

check_keys <- function(found, known, path, faults) {
  for (key in setdiff(names(found), known)) {
    faults$add(
      c(path, key), sprintf("There is no key \"%s\".", key), nearest_known(
        key, known
      )
    )
  }
}
