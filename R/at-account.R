# The account of records elsewhere: what there is, counted there.

#' @export
source_account.backfill_records_at <- function(x, call) {
  role <- facts(x)
  calendar <- calendar_of_dates("day")
  outline <- source_outline(x, NULL, call)
  census <- outline$census
  table <- outline$zone
  survey <- source_survey(x, outline, table)
  cadences <- find_cadences(survey, table)
  moment <- function(second) {
    if (outline$dates) .Date(second / 86400) else .POSIXct(second, tz = role$zone)
  }
  account <- new_account(
    tibble::tibble(source = source_label(x), rows = census$read),
    aside_at(x, census, sum(survey$each$records), call), 0L,
    lapply(as.list(census$missing[census$missing > 0]), function(count) {
      c("NULL" = count)
    }),
    moment(c(survey$all$lowest, survey$all$highest)),
    if (role$duplicates == "keep") repeats_at(x, table) else c(0L, 0L), 0L,
    c(
      sprintf(
        "The records are in %s and stay there.",
        sub("^The", "the", role$at$engine$label)
      ),
      renamed_note(role$columns)
    )
  )
  account$cadence <- describe_cadences(cadences, outline$names)
  account$series <- nrow(outline$names)
  account
}

# The rows that are not used, each with its reason; a table has no lines.
aside_at <- function(x, census, used, call) {
  role <- facts(x)
  counts <- c(census$aside, "left out, or a time that never was" =
                census$read - sum(census$aside) - used)
  if (sum(counts) > 1e6) {
    abort_backfill(
      "when",
      sprintf(
        "%s of %s cannot be used.", thousands(sum(counts)),
        count_of(census$read, "row")
      ),
      ">" = "Give a SELECT that leaves out those without a date.", call = call
    )
  }
  new_rejected(
    source = rep(source_label(x), sum(counts)),
    line = rep(NA_integer_, sum(counts)), column = rep(role$when, sum(counts)),
    text = rep("", sum(counts)), reason = rep(names(counts), counts)
  )
}

# Rows with the series and time of another: those with its figures, those with
# others.
repeats_at <- function(x, table) {
  engine <- facts(x)$at$engine
  measures <- names(plain_measures(facts(x)$measures))
  keys <- c(key_names(facts(x)$columns), "e")
  counted <- function(by) {
    each <- grouped(figures_at(x, measures), by, c(c = "COUNT(*)"))
    ask_grouped(engine, each, NULL, c(n = "SUM(c - 1)"))$n
  }
  all <- counted(keys)
  same <- counted(c(keys, sprintf("v%d", seq_along(measures))))
  c(same, all - same)
}

figures_at <- function(x, measures) {
  at <- facts(x)$at
  columns <- c(
    keyed(at$engine$name(facts(x)$columns)), e = at$moments$exact,
    stats::setNames(
      vapply(measures, figure_at, "", x = x), sprintf("v%d", seq_along(measures))
    )
  )
  new_steps(columns, at$from, at$moments$usable, at$there)
}

#' @export
source_days_off.backfill_records_at <- function(x, names, frame) {
  open <- open_sql("d", frame$calendar)
  if (is.null(open)) {
    return(stats::setNames(rep(0, length(names)), names))
  }
  vapply(names, function(name) {
    rows <- timed_at(x, NULL, frame$zone, figure_at(x, name))
    off <- only_where(rows, sprintf("NOT (%s)", open))
    ask_grouped(facts(x)$at$engine, off, NULL, c(n = "COUNT(v)"))$n
  }, 0)
}
