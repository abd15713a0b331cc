#' The R script of a study
#'
#' The script that makes the same tables as the study, call by call. It is to be
#' run in the study's folder.
#'
#' @inheritParams run_study
#' @return The lines of the script, as text.
#' @examplesIf requireNamespace("yaml", quietly = TRUE)
#' writeLines(study_script(demo_file("nights-study.yaml")))
#' @export
study_script <- function(study) {
  check_given()
  if (rlang::is_string(study)) {
    study <- read_study(study)
  }
  steps <- c(study$sources, study$steps)
  made <- unlist(lapply(steps, function(step) {
    assigned(step$name, step$call)
  }))
  written <- Filter(function(step) step$named, study$steps)
  drawn <- unlist(lapply(study$figures, function(figure) {
    rlang::expr_deparse(rlang::call2(
      "write_figure", figure$call, paste0(figure$name, ".png")
    ))
  }))
  c(
    if (!is.null(study$title)) paste("#", strsplit(study$title, "\n")[[1]]),
    sprintf("# Made from %s, to be run in its folder.", basename(study$file)),
    "library(backfill)", "", unname(made),
    if (length(written) > 0) "",
    unlist(lapply(names(written), function(name) {
      sprintf("write_periods(%s, \"%s.%s\")", name, name, study$tables)
    })),
    unname(drawn)
  )
}

assigned <- function(name, call) {
  lines <- rlang::expr_deparse(call, width = 80)
  lines[[1]] <- paste(name, "<-", lines[[1]])
  lines[-1] <- sub("^ *", "  ", lines[-1])
  lines
}
