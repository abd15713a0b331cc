# What a roll-up works on is a source: records in memory, records in chunks, a
# table that lies elsewhere. A source is anything with the facts of a records
# table (`when`, `series`, `measures`, `zone`) and methods for the generics
# here; it never needs to show its rows. Periods are rolled up further by
# roll_frame() and roll_parts() of their own.

# Whether it can be rolled up: `x`, or an error.
check_source <- function(x) UseMethod("check_source")

# What is to be known before the periods can be: list(by, names, ends, dates,
# sources), which are the columns that it is rolled up by, a table of its
# series (the columns in `by` and those of its facts), the first and the last
# time (days or seconds since 1970), whether these are dates, and the files and
# tables it came from. What its other methods need may stand beside.
source_outline <- function(x, by) UseMethod("source_outline")

# How its times lie on the clock of a zone, see survey_times(): list(each, all,
# filled). Without `steps`, what distances have in common need not be found.
source_survey <- function(x, outline, table, steps) {
  UseMethod("source_survey")
}

# Of the measure `name` the cells of a frame, as roll_cells() gives them, with
# all that `use` asks for: list(cells, quantiles), where `quantiles(cells,
# share, frame)` gives a quantile of the figures in each cell.
source_cells <- function(x, name, frame, use) UseMethod("source_cells")

# The same of what the readings of a counter rose by: list(cells, quantiles,
# marks, falls), see counter_cells(); `how` is of new_counting().
source_rises <- function(x, name, frame, use, how) UseMethod("source_rises")

# How many records of each measure `names` lie on days off.
source_days_off <- function(x, names, frame) UseMethod("source_days_off")

#' @export
check_source.default <- function(x) check_records(x)

#' @export
check_source.backfill_records <- function(x) {
  check_records(x)
  if (nrow(x) == 0) {
    abort_backfill("input", "The records table has no rows.")
  }
  last_versions(x)
}

#' @export
check_source.backfill_chunked <- function(x) x

#' @export
check_source.backfill_periods <- function(x) {
  x <- check_periods(x)
  # Of a part of a table, its own measures alone.
  there <- intersect(names(facts(x)$measures), x$measure)
  attr(x, "backfill")$measures <- facts(x)$measures[there]
  x
}

#' @export
source_outline.backfill_records <- function(x, by) {
  role <- facts(x)
  by <- check_by(by, names(x), role$series)
  when <- x[[role$when]]
  ends <- ends_cpp(when)
  keys <- union(role$series, by)
  series <- series_index(names_as_text(plain_tibble(x)[keys], keys), keys)
  list(
    by = by, names = series$names, ends = c(ends$lowest, ends$highest),
    dates = inherits(when, "Date"),
    sources = c(role$account$sources$source, role$beside),
    when = when, series = series$index
  )
}

#' @export
source_outline.backfill_chunked <- function(x, by) {
  role <- facts(x)
  found <- collected(x)
  list(
    by = check_by(by, role$series, role$series), names = found$names,
    ends = found$ends / if (found$dates) 86400 else 1, dates = found$dates,
    sources = found$account$sources$source
  )
}

#' @export
source_survey.backfill_records <- function(x, outline, table, steps) {
  parts <- one_part(outline$when, outline$series)
  survey_times(parts, unit_of_times(outline$when), nrow(outline$names), table)
}

#' @export
source_survey.backfill_chunked <- function(x, outline, table, steps) {
  unit <- if (outline$dates) 86400 else 1
  survey_times(chunk_parts(collected(x)), unit, nrow(outline$names), table)
}

# Whatever has its records in parts is rolled up from these.
#' @export
source_cells.default <- function(x, name, frame, use) {
  parts <- values_of(x, name, frame, use)
  list(
    cells = roll_cells(parts, frame, use), quantiles = quantiles_of_parts(parts)
  )
}

#' @export
source_rises.default <- function(x, name, frame, use, how) {
  counter_cells(
    values_of(x, name, frame, use), frame, how, use, part_keeper(x, name)
  )
}

#' @export
source_days_off.default <- function(x, names, frame) {
  count_days_off(lapply(names, function(name) raw_parts(x, name, frame)), frame)
}

# The records of a measure in parts (see src/parts.h), each as `change` makes
# it.
raw_parts <- function(x, name, frame, change = identity) UseMethod("raw_parts")

#' @export
raw_parts.backfill_records <- function(x, name, frame, change = identity) {
  list(change(list(
    when = frame$when, series = frame$series, value = as.double(x[[name]])
  )))
}

#' @export
raw_parts.backfill_chunked <- function(x, name, frame, change = identity) {
  chunk_parts(collected(x), name, change)
}

# What puts away what became of each of several parts, see counter_cells().
part_keeper <- function(x, name) UseMethod("part_keeper")

#' @export
part_keeper.default <- function(x, name) NULL

#' @export
part_keeper.backfill_chunked <- function(x, name) {
  function(i, rise) collected(x)$keep(i, name, rise)
}

# The same, changed as its use wants it.
values_of <- function(x, name, frame, use) {
  change <- changes_of(facts(x)$measures[[name]], use, frame$calendar)
  raw_parts(x, name, frame, change)
}

quantiles_of_parts <- function(parts) {
  function(cells, share, frame) cell_quantiles(parts, cells, share, frame)
}

# What becomes of a part of the records before its values are added to their
# cells.
changes_of <- function(measure, use, calendar) {
  compounded <- measure$kind == "return" && "compound" %in% use
  left_out <- calendar$unit == "working day" && !joins_next_day(measure)
  function(part) {
    if (compounded) {
      part$value <- logged(measure)(part$value)
    }
    if (left_out) {
      part$value[!on_open_day(part$when, calendar)] <- NA
    }
    part
  }
}

# What makes growth that is compounded a sum.
logged <- function(measure) {
  unit <- if (identical(measure$unit, "%")) 100 else 1
  function(value) {
    value <- value / unit
    impossible <- sum(value < -1, na.rm = TRUE)
    if (impossible > 0) {
      warn_impossible(impossible)
      value[which(value < -1)] <- NA
    }
    log1p(value)
  }
}

warn_impossible <- function(count) {
  warn_backfill(
    "values",
    "{count_of(count, 'return lies', 'returns lie')} below -100%, more than",
    "there is to lose, and {if (count == 1) 'is' else 'are'} left out."
  )
}
