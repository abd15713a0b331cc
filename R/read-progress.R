# Bars for what takes longer than two seconds, on terminals only.

bars_wanted <- function() {
  getOption("backfill.progress") %||% (interactive() && isatty(stdout()))
}

# Runs `code`, a function that is handed another, to be called with the share of
# the work that is done from time to time, and with what is being done where
# that is no longer `text`; NULL where no bar is wanted. Inside of it there is
# no other bar.
with_bar <- function(text, code) {
  if (!bars_wanted()) {
    return(code(NULL))
  }
  old <- options(backfill.progress = FALSE)
  on.exit(options(old))
  bar <- cli::cli_progress_bar(
    status = text, total = 100,
    format = "{cli::pb_status} {cli::pb_bar} {cli::pb_percent}"
  )
  code(function(share, now = text) {
    cli::cli_progress_update(set = 100 * share, status = now, id = bar)
  })
}
