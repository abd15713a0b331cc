#' Backfill: dated records into regular periods, and periods into findings
#'
#' Read dated records with [read_records()], roll them up to regular periods
#' with [roll_up()], and compute growth with [add_growth()], moving averages
#' with [add_moving()] and seasons with [seasonal_index()]. Every result prints
#' as a sentence and a table, draws itself with [autoplot()], and is written to
#' a file with [write_periods()].
#'
#' The command line `backfill` does the same from a shell; see
#' `backfill --help`.
#'
#' @keywords internal
#' @useDynLib backfill, .registration = TRUE
#' @importFrom Rcpp evalCpp
#' @importFrom rlang .data caller_env current_env %||%
"_PACKAGE"
