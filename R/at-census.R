# A first pass: which series there are, how many records of each, from when to
# when, and what cannot be used.

# list(names, rows, lowest, highest, read, usable, missing): a row, an element,
# for each series, and how many rows there are, have a time, and lack each
# measure; also by how much any lies off the `quarters` of an hour, and the
# `texts` of each series' names. Times are those of the table's own clock.
census_at <- function(x, names, call) {
  at <- facts(x)$at
  engine <- at$engine
  measures <- names(plain_measures(facts(x)$measures))
  usable <- at$moments$usable
  letters <- c(m = "lacks", if (!is.null(engine$odd)) c(o = "odd"))
  counted <- unlist(lapply(names(letters), function(letter) {
    rule <- engine[[letters[[letter]]]]
    each <- vapply(column_at(x, measures), rule, "")
    stats::setNames(each, sprintf("%s%d", letter, seq_along(measures)))
  }))
  lacking <- startsWith(names(counted), "m")
  counted[lacking] <- vapply(
    counted[lacking], all_conditions, "", usable, USE.NAMES = FALSE
  )
  as_one <- function(rule) sprintf("CASE WHEN %s THEN 1 ELSE 0 END", rule)
  rows <- new_steps(c(
    keyed(column_at(x, names)),
    usable = if (is.null(usable)) "1" else as_one(usable),
    raw = if_usable(at$moments, at$moments$raw),
    own = if_usable(at$moments, at$moments$second),
    stats::setNames(as_one(counted), sprintf("is_%s", names(counted)))
  ), at$from, there = at$there)
  keys <- key_names(names)
  texts <- texts_of_keys(engine, keys)
  found <- ask_steps(engine, grouped(rows, keys, c(texts, vapply(c(
    all_rows = "COUNT(*)", used = "SUM(usable)",
    lowest = at$moments$of_raw("MIN(raw)"),
    highest = at$moments$of_raw("MAX(raw)"),
    quarters = sprintf("MAX((own + %s) %% 900)", as_digits(9e10)),
    stats::setNames(sprintf("SUM(is_%s)", names(counted)), names(counted))
  ), engine$real, ""))))
  check_figures_at(x, found, measures, call)
  read <- sum(found$all_rows)
  usable <- sum(found$used, na.rm = TRUE)
  if (usable * 2 <= read) {
    stop_census(x, read, usable, call)
  }
  there <- found$used > 0
  keys <- stats::setNames(found[key_names(names)], names)
  keys <- keys_in_order(vctrs::vec_slice(keys, there))
  lines <- vctrs::vec_slice(found, there)[keys$rank, ]
  list(
    names = keys$names, rows = lines$used, lowest = lines$lowest,
    highest = lines$highest, quarters = lines$quarters,
    texts = lines[names(texts)], read = read,
    usable = usable,
    missing = stats::setNames(
      colSums(as.matrix(found[sprintf("m%d", seq_along(measures))])), measures
    )
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

check_figures_at <- function(x, found, measures, call) {
  if (is.null(facts(x)$at$engine$odd)) {
    return()
  }
  odd <- vapply(seq_along(measures), function(i) {
    sum(found[[sprintf("o%d", i)]], na.rm = TRUE)
  }, 0)
  if (any(odd > 0)) {
    at <- which(odd > 0)[[1]]
    abort_backfill(
      "number",
      sprintf(
        "The measure %s holds something else than a number in %s.",
        quoted(measures[[at]]), count_of(odd[[at]], "row")
      ),
      ">" = paste(
        "Give a SELECT that leaves these out or makes numbers of them, or",
        "read the rows with read_records()."
      ),
      call = call
    )
  }
}

stop_census <- function(x, read, used, call) {
  if (read == 0) {
    abort_backfill("input", "The table has no rows.", call = call)
  }
  abort_backfill(
    "when",
    sprintf(
      "The column %s holds a time that can be read in %s of %s only.",
      quoted(facts(x)$when), thousands(used), count_of(read, "row")
    ),
    ">" = "Name the column of the time, or give a SELECT that casts it.",
    call = call
  )
}

#' @export
source_outline.backfill_records_at <- function(x, by, call) {
  role <- facts(x)
  at <- role$at
  by <- check_by(by, columns_at(x), role$series, call)
  names <- union(role$series, by)
  census <- census_at(x, there_as(x, names), call)
  names(census$names) <- names
  dates <- at$moments$kind == "date"
  zone <- zone_over(x, census)
  if (length(zone$offset) > 1 && at$moments$kind == "clock") {
    check_clock_at(x, zone, call)
  }
  check_repeats_at(x, call)
  census <- within_kept(x, census, zone, call)
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
check_clock_at <- function(x, zone, call) {
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
      sprintf(
        "%s in an hour that the clock of %s shows twice.",
        count_of(found, "record is", "records are"), facts(x)$zone
      ),
      i = "A table has no order of rows that would tell the two apart.",
      ">" = paste(
        "Set `repeated` to \"first\" or \"second\", or `zone` to \"UTC\" if",
        "the times are not those of a clock with daylight saving."
      ),
      choices = list(repeated = "first"), call = call
    )
  }
}

# Two records of one series and time.
check_repeats_at <- function(x, call) {
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
      sprintf(
        "%s the series and time of another.",
        count_of(found, "row has", "rows have")
      ),
      i = if (length(keys) == 0) paste(
        "Do other columns tell several series apart? Then name them in",
        "`series`."
      ),
      ">" = paste(
        "Set `duplicates` to \"keep\" where each is an event of its own, or",
        "give a SELECT that makes one record of them."
      ),
      choices = list(duplicates = "keep"), call = call
    )
  }
}

# The census of what keep_dates() keeps and the clock shows.
within_kept <- function(x, census, zone, call) {
  if (is.null(c(never_at(x, zone), kept_at(x)))) {
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
    abort_backfill("input", "The records table has no rows.", call = call)
  }
  ordered <- keys_in_order(stats::setNames(found[keys], names(census$names)))
  census$names <- ordered$names
  kept <- before[ordered$rank]
  census$quarters <- census$quarters[kept]
  census$texts <- vctrs::vec_slice(census$texts, kept)
  census[c("rows", "lowest", "highest")] <-
    found[ordered$rank, c("rows", "lowest", "highest")]
  census
}
