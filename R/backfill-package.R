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
#' @section Options: R's options, for [options()].
#'   * `backfill.threads`: how many threads large tables are shared out to, 1
#'     or more. By default as the environment variable `BACKFILL_THREADS` says,
#'     or as many as there are processors, up to four. Results are the same for
#'     any number.
#'   * `backfill.progress`: whether steps that take longer than two seconds
#'     show how far they are. By default at a terminal.
#'   * `backfill.chunk_bytes`: how much of a file is read at a time with
#'     `chunked`; 32 MiB by default.
#'   * `backfill.fetch_seconds`, `backfill.unpack_bytes`,
#'     `backfill.reader_seconds`: the most time a download takes (an hour), the
#'     most that a compressed file may unpack to (16 GiB), and the most time a
#'     workbook is read for (30 minutes).
#' @keywords internal
#' @useDynLib backfill, .registration = TRUE
#' @importFrom Rcpp evalCpp
#' @importFrom rlang .data %||%
"_PACKAGE"
