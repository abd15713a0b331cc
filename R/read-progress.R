# Bars for what takes longer than two seconds, on terminals only.

bars_wanted <- function() {
  getOption("backfill.progress") %||% (interactive() && isatty(stdout()))
}

# Runs `code`, a function that is handed another, to be called with the share of
# the work that is done from time to time; NULL where no bar is wanted.
with_bar <- function(text, code) {
  if (!bars_wanted()) {
    return(code(NULL))
  }
  bar <- cli::cli_progress_bar(
    total = 100, format = "{text} {cli::pb_bar} {cli::pb_percent}"
  )
  code(function(share) cli::cli_progress_update(set = 100 * share, id = bar))
}
