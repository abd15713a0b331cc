# A first pass: which series there are, how many records of each, and from when
# to when.

# list(names, rows, lowest, highest, bare, lacking, read, usable): a row, an
# element, for each series, how many of its rows have no value at all, which
# share lacks each measure, and how many there are and have a time; also
# the `texts` of each series' names. Times are those of the table's own clock.
census_at <- function(x, names) {
  at <- facts(x)$at
  engine <- at$engine
  odd <- odd_figures(x)
  lacking <- lacking_columns(x)
  rows <- new_steps(c(
    keyed(column_at(x, names)), raw = if_usable(at$moments, at$moments$raw),
    none = as_one(bare_at(x)), lacking, odd
  ), at$from, there = at$there)
  keys <- key_names(names)
  texts <- texts_of_keys(engine, keys)
  flags <- c(names(odd), names(lacking))
  found <- ask_steps(engine, grouped(rows, keys, c(texts, vapply(c(
    all_rows = "COUNT(*)", used = "COUNT(raw)", bare = "SUM(none)",
    lowest = at$moments$of_raw("MIN(raw)"),
    highest = at$moments$of_raw("MAX(raw)"),
    stats::setNames(sprintf("SUM(%s)", flags), totals_called(flags))
  ), engine$real, ""))))
  check_figures_at(x, found[totals_called(names(odd))])
  read <- sum(found$all_rows)
  usable <- sum(found$used, na.rm = TRUE)
  if (usable * 2 <= read) {
    stop_census(x, read, usable)
  }
  there <- found$used > 0
  keys <- names_as_text(
    stats::setNames(found[key_names(names)], names), names
  )
  keys <- keys_in_order(vctrs::vec_slice(keys, there))
  lines <- vctrs::vec_slice(found, there)[keys$rank, ]
  list(
    names = keys$names, rows = lines$used, lowest = lines$lowest,
    highest = lines$highest, bare = lines$bare, lacking = stats::setNames(
      lapply(lines[totals_called(names(lacking))], `/`, lines$all_rows),
      plain_names(x)
    ), texts = lines[names(texts)],
    read = read, usable = usable
  )
}

# The names of series as texts, by the columns that queries call them.
texts_of_keys <- function(engine, keys) {
  texts <- sprintf("COALESCE(%s, 'NA ')", vapply(keys, engine$key_text, ""))
  stats::setNames(texts, sprintf("j%d", seq_along(keys)))
}

# The series in the order of their names, see series_index().
keys_in_order <- function(keys) {
  if (length(keys) == 0) {
    return(list(names = vctrs::data_frame(.size = 1L), rank = 1L))
  }
  rank <- do.call(order, c(unname(as.list(keys)), method = "radix"))
  list(names = vctrs::vec_slice(keys, rank), rank = rank)
}

# 1 for each measure, by columns of their own, where its column holds something
# else than a number; none where the engine sees to that.
odd_figures <- function(x) {
  odd <- facts(x)$at$engine$odd
  if (is.null(odd)) {
    return()
  }
  rules <- vapply(column_at(x, plain_names(x)), odd, "")
  stats::setNames(as_one(rules), sprintf("o%d", seq_along(rules)))
}

# Not as the column: where all stands in one SELECT, a name has one meaning.
totals_called <- function(flags) paste0(flags, "_sum", recycle0 = TRUE)

as_one <- function(rule) sprintf("CASE WHEN %s THEN 1 ELSE 0 END", rule)

# How many usable rows lack each measure.
missing_at <- function(x) {
  at <- facts(x)$at
  columns <- lacking_columns(x)
  found <- ask_grouped(
    at$engine, new_steps(columns, at$from, at$moments$usable, at$there), NULL,
    stats::setNames(
      sprintf("SUM(%s)", names(columns)),
      sprintf("lacking%d", seq_along(columns))
    )
  )
  stats::setNames(unlist(found), plain_names(x))
}

lacking_columns <- function(x) {
  lacks <- vapply(
    column_at(x, plain_names(x)), facts(x)$at$engine$lacks, ""
  )
  stats::setNames(as_one(lacks), sprintf("m%d", seq_along(lacks)))
}

check_figures_at <- function(x, found) {
  odd <- colSums(as.matrix(found), na.rm = TRUE)
  if (any(odd > 0)) {
    at <- which(odd > 0)[[1]]
    abort_backfill(
      "number",
      "The measure {quoted(plain_names(x)[[at]])} holds something else than a",
      "number in {count_of(odd[[at]], 'row')}.",
      ">" = "Give a SELECT that leaves these out or makes numbers of them, or",
      "read the rows with read_records()."
    )
  }
}

stop_census <- function(x, read, used) {
  if (read == 0) {
    abort_backfill("input", "The table has no rows.")
  }
  abort_backfill(
    "when",
    "The column {quoted(facts(x)$when)} holds a time that can be read in",
    "{thousands(used)} of {count_of(read, 'row')} only.",
    ">" = "Name the column of the time, or give a SELECT that casts it."
  )
}

#' @export
source_outline.backfill_records_at <- function(x, by) {
  role <- facts(x)
  at <- role$at
  by <- check_by(by, columns_at(x), role$series)
  names <- union(role$series, by)
  census <- census_at(x, there_as(x, names))
  names(census$names) <- names
  dates <- at$moments$kind == "date"
  zone <- zone_over(x, census)
  if (length(zone$offset) > 1 && at$moments$kind == "clock") {
    check_clock_at(x, zone)
  }
  check_repeats_at(x)
  census <- within_kept(x, census, zone)
  ends <- instants_at(x, c(min(census$lowest), max(census$highest)), zone)
  list(
    by = by, names = census$names, ends = ends / if (dates) 86400 else 1,
    dates = dates, census = census, zone = zone, clock = zone,
    sources = c(source_label(x), at$engine$file, role$beside)
  )
}

# What is read is named, but never how a server is reached.
source_label <- function(x) {
  at <- facts(x)$at
  if (is_select(at$table)) "query" else at$table
}

columns_at <- function(x) {
  role <- facts(x)
  union(role$series, c(role$at$there, names(role$at$attributes)))
}

# What columns of series are called there.
there_as <- function(x, names) {
  role <- facts(x)
  at <- match(names, role$series)
  as.character(ifelse(is.na(at), names, as.character(role$columns)[at]))
}

# The zone's table over all times there.
zone_over <- function(x, census) {
  zone <- if (facts(x)$at$moments$kind == "date") "UTC" else facts(x)$zone
  zone_table(zone, min(census$lowest) - 2e5, max(census$highest) + 2e5)
}

# Times that were shown twice cannot be told apart in a table.
check_clock_at <- function(x, zone) {
  gaps <- clock_gaps(zone, twice = TRUE)
  if (!is.null(facts(x)$repeated) || length(gaps$from) == 0) {
    return()
  }
  twice <- only_where(
    usable_at(x, NULL), sprintf("%s = 1", within_sql("own", gaps))
  )
  found <- ask_grouped(
    facts(x)$at$engine, twice, NULL, c(n = "COUNT(*)")
  )$n
  if (found > 0) {
    abort_backfill(
      "when",
      "{count_of(found, 'record is', 'records are')} in an hour that the clock",
      "of {facts(x)$zone} shows twice.",
      i = "A table has no order of rows that would tell the two apart.",
      ">" = "Set `repeated` to \"first\" or \"second\", or `zone` to \"UTC\"",
      "if the times are not those of a clock with daylight saving.",
      choices = list(repeated = "first")
    )
  }
}

# Two records of one series and time.
check_repeats_at <- function(x) {
  if (facts(x)$duplicates == "keep") {
    return()
  }
  keys <- key_names(facts(x)$columns)
  each <- grouped(
    usable_at(x, facts(x)$columns), c(keys, "e"), c(c = "COUNT(*)")
  )
  found <- ask_grouped(
    facts(x)$at$engine, only_where(each, "c > 1"), NULL, c(n = "SUM(c - 1)")
  )$n
  if (isTRUE(found > 0)) {
    abort_backfill(
      "duplicates",
      "{count_of(found, 'row has', 'rows have')} the series and time of",
      "another.",
      i = if (length(keys) == 0) {
        paste(
          "Do other columns tell several series apart? Then name them in",
          "`series`."
        )
      },
      ">" = "Set `duplicates` to \"keep\" where each is an event of its own,",
      "or give a SELECT that makes one record of them.",
      choices = list(duplicates = "keep")
    )
  }
}

# The census of what keep_dates() keeps and the clock shows.
within_kept <- function(x, census, zone) {
  if (is.null(c(never_at(x, zone), kept_at(x), facts(x)$at$valued))) {
    return(census)
  }
  keys <- key_names(census$names)
  rows <- timed_at(x, list(names = census$names, zone = zone, clock = zone))
  found <- ask_grouped(
    facts(x)$at$engine, rows, keys,
    c(rows = "COUNT(*)", lowest = "MIN(e)", highest = "MAX(e)")
  )
  found <- found[found$rows > 0, ]
  before <- series_numbers(census$names, found)
  if (nrow(found) == 0) {
    abort_backfill("input", "The records table has no rows.")
  }
  ordered <- keys_in_order(stats::setNames(found[keys], names(census$names)))
  census$names <- ordered$names
  census$texts <- vctrs::vec_slice(census$texts, before[ordered$rank])
  census[c("rows", "lowest", "highest")] <-
    found[ordered$rank, c("rows", "lowest", "highest")]
  census
}
