# Records that are not in memory: a source that is read part by part once it is
# rolled up. Its attribute "backfill" has the roles as a records table has them,
# and `source`, an environment with `collect`, a function that reads the source.

new_chunked <- function(
  files, collect, when, series, measures, zone, year_start
) {
  source <- new.env(parent = emptyenv())
  source$collect <- collect
  structure(
    list(files = files), class = "backfill_chunked",
    backfill = list(
      when = when, series = series, measures = measures, zone = zone,
      year_start = year_start, source = source
    )
  )
}

is_chunked <- function(x) inherits(x, "backfill_chunked")

# Records that lie in a database and stay there.
is_elsewhere <- function(x) inherits(x, "backfill_records_at")

# What has an account: records in memory, in chunks, elsewhere.
is_read <- function(x) is_records(x) || is_chunked(x) || is_elsewhere(x)

# What reading found, which is done once: list(chunk, keep, count, names, ends,
# dates, account), where `chunk(i, name)` gives the i-th part of `count`, of the
# measure `name` or of none (see src/parts.h), and `keep(i, name, value)` puts
# away what that became.
collected <- function(x) {
  source <- facts(x)$source
  if (is.null(source$found)) {
    source$found <- source$collect()
  }
  if (!dir.exists(source$found$folder)) {
    abort_backfill(
      "input",
      "What was read in chunks lay in temporary files, which are gone, as in a",
      "later session.",
      ">" = "Read it again: read_records() with `chunked` TRUE."
    )
  }
  source$found
}

# The parts of a measure, or of the times alone; `change` is applied to those
# with values.
chunk_parts <- function(found, name = NULL, change = identity) {
  lapply(seq_len(found$count), function(i) {
    function() {
      part <- found$chunk(i, name)
      if (!is.null(name)) {
        part <- change(part)
      }
      part
    }
  })
}
