#' The records of a run
#'
#' The records that a run of a study read, from the folder that it left: what
#' stands behind its tables, whatever became of the files since.
#'
#' @param folder The folder of a run, from `run_study(out = )` or `backfill
#'   study run --out`.
#' @param name Name of the source in the study; not needed where there is one.
#' @return A records table with the columns, kinds and units that the study gave
#'   them.
#' @section Errors: `backfill_error_file` where `folder` is not that of a run,
#'   or its records were not kept; `backfill_error_argument` for an unknown
#'   name.
#' @seealso [trace_value()], [run_changes()].
#' @examples
#' folder <- tempfile("study-")
#' dir.create(folder)
#' file.copy(
#'   c(demo_file("inns.csv"), demo_file("landings.csv"),
#'     demo_file("nights-study.yaml")), folder
#' )
#' out <- file.path(folder, "run")
#' done <- run_study(file.path(folder, "nights-study.yaml"), out = out)
#' nights <- run_records(out, "nights")
#' growth <- read_periods(file.path(out, "growth.csv"))
#' trace_value(growth, "2031-04", "Hearth", records = nights)
#' @export
run_records <- function(folder, name = NULL) {
  check_given()
  sources <- manifest_of_run(folder, "folder")$sources
  if (is.null(name) && length(sources) == 1) name <- names(sources)
  check_one_of(name, names(sources), "name")
  source <- sources[[name]]
  file <- records_file(folder, name)
  if (is.null(source$roles) || !file.exists(file)) {
    abort_backfill(
      "file", "The records of \"{name}\" were not kept in the run.",
      i = "Those of a database stay there, and runs of earlier versions do not",
      "say what their columns are."
    )
  }
  roles <- source$roles
  as_records(
    records_kept(file), roles$when, lapply(roles$measures, function(one) {
      do.call(measure, one)
    }),
    series = unlist(roles$series), zone = roles$zone, known = roles$known,
    duplicates = "keep"
  )
}

# What the columns of records are, for a manifest.
roles_of_records <- function(records) {
  about <- facts(records)
  list(
    when = about$when, known = about$known,
    series = I(as.character(about$series)), zone = about$zone,
    measures = lapply(about$measures, function(one) {
      Filter(Negate(is.null), one[measure_parts])
    })
  )
}
