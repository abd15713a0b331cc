# The account of records elsewhere: what there is, counted there.

#' @export
source_account.backfill_records_at <- function(x) {
  role <- facts(x)
  outline <- source_outline(x, NULL)
  census <- outline$census
  zone <- outline$zone
  survey <- source_survey(x, outline, zone, steps = TRUE)
  cadences <- found_cadences(x, outline, survey, zone)
  never <- count_never(x, census, zone)
  missing <- missing_at(x)
  account <- new_account(
    new_rows(source = source_label(x), rows = census$read),
    aside_at(x, census, never), 0L,
    lapply(as.list(missing[missing > 0]), function(count) {
      stats::setNames(count, if (role$coded) "NULL or a code" else "NULL")
    }),
    ends_of_survey(survey, outline, role$zone),
    if (role$duplicates == "keep") repeats_at(x) else c(0L, 0L), 0L,
    c(
      sprintf(
        "The records are in %s and stay there.",
        sub("^The", "the", role$at$engine$label)
      ),
      renamed_note(role$columns), role$notes, kept_note(
        x, sum(survey$each$records), census$usable - never
      ),
      unlist(lapply(plain_names(x), function(name) {
        codes_note(name, odd_codes_at(x, outline, name))
      }))
    )
  )
  account$cadence <- describe_cadences(cadences, outline$names)
  account$series <- nrow(outline$names)
  account$out_of_order <- 0L
  account$gaps <- gaps_at(x, outline, cadences)
  account$suspicious <- suspicious_at(x, outline)
  account
}

# The longest gaps, see longest_gaps(); none are told where all records of a
# series would have to be held for them.
gaps_at <- function(x, outline, cadences, most = 3) {
  engine <- facts(x)$at$engine
  none <- c(outline$names, list(
    after = moments_at(x, numeric(), outline),
    before = moments_at(x, numeric(), outline), missing = numeric()
  ))
  if (!engine$ordered$in_windows || all(is_irregular(cadences))) {
    return(tibble::new_tibble(lapply(none, `[`, 0), nrow = 0))
  }
  outline$cadences <- cadences
  kept <- any(lengths(cadences$kept) > 0)
  rows <- with_columns(timed_at(x, outline), c(u = "e", p = "0"))
  rows <- with_slots(x, outline, rows)
  found <- ask_steps(engine, selected(
    with_rises(x, outline, rows),
    "SELECT %s FROM @ AS q WHERE missing >= 1 ORDER BY missing DESC, e %s",
    listed(c(key_names(outline$names), "be", "e", "missing")),
    sprintf("LIMIT %d", if (kept) 100000L else 200L)
  ))
  if (kept) found <- without_slots_left(x, found, outline, cadences)
  span <- paste(found$be, found$e)
  found <- vctrs::vec_slice(
    found, span %in% first_few(unique(span), most)
  )
  new_rows(
    vctrs::vec_slice(outline$names, series_numbers(outline$names, found)),
    after = moments_at(x, found$be, outline),
    before = moments_at(x, found$e, outline),
    missing = as.numeric(found$missing)
  )
}

# What keep_dates() left out between two records is not missing.
without_slots_left <- function(x, found, outline, cadences) {
  zone <- outline$zone
  found$missing <- missing_kept(
    as.numeric(found$missing), instants_at(x, as.numeric(found$be), zone),
    instants_at(x, as.numeric(found$e), zone),
    cadences[series_numbers(outline$names, found), ], zone
  )
  found <- vctrs::vec_slice(found, found$missing > 0)
  vctrs::vec_slice(found, order(-found$missing, as.numeric(found$e)))
}

# Series of zeros, and flows below zero.
suspicious_at <- function(x, outline) {
  engine <- facts(x)$at$engine
  measures <- plain_measures(facts(x)$measures)
  found <- lapply(names(measures), function(name) {
    rows <- timed_at(x, outline, figure_at(x, name))
    seen <- ask_grouped(engine, rows, key_names(outline$names), c(
      low = "MIN(v)", high = "MAX(v)",
      below = "SUM(CASE WHEN v < 0 THEN 1 ELSE 0 END)"
    ))
    seen <- match_series(outline, seen)
    c(
      all_zero(which(seen$low == 0 & seen$high == 0), outline$names),
      if (measures[[name]]$kind == "flow" && sum(seen$below) > 0) {
        below_zero(sum(seen$below))
      }
    )
  })
  new_rows(
    measure = rep(names(measures), lengths(found)),
    what = as.character(unlist(found))
  )
}

odd_codes_at <- function(x, outline, name) {
  all <- timed_at(x, outline, figure_at(x, name))
  odd_codes(function(above, below) {
    within <- c(
      if (is.finite(above)) sprintf("v > %s", as_digits(above)),
      if (is.finite(below)) sprintf("v < %s", as_digits(below))
    )
    extremes_at(facts(x)$at$engine, only_where(all, within))
  })
}

# As extremes_cpp().
extremes_at <- function(engine, rows) {
  ends <- ask_grouped(engine, rows, NULL, c(low = "MIN(v)", high = "MAX(v)"))
  if (is.na(ends$low)) {
    return(list(
      low = NA, high = NA, at_low = 0, at_high = 0, next_low = NA,
      next_high = NA
    ))
  }
  low <- as_digits(ends$low)
  high <- as_digits(ends$high)
  c(ends, ask_grouped(engine, rows, NULL, c(
    at_low = sprintf("SUM(CASE WHEN v = %s THEN 1 ELSE 0 END)", low),
    at_high = sprintf("SUM(CASE WHEN v = %s THEN 1 ELSE 0 END)", high),
    next_low = sprintf("MIN(CASE WHEN v > %s THEN v END)", low),
    next_high = sprintf("MAX(CASE WHEN v < %s THEN v END)", high)
  )))
}

# Seconds of the engine as days or instants.
moments_at <- function(x, second, outline) {
  second <- instants_at(x, as.numeric(second), outline$zone)
  if (outline$dates) .Date(second / 86400) else
    .POSIXct(second, tz = facts(x)$zone)
}

ends_of_survey <- function(survey, outline, zone) {
  ends <- c(survey$all$lowest, survey$all$highest)
  if (outline$dates) .Date(ends / 86400) else .POSIXct(ends, tz = zone)
}

# The rows that are not used, each with its reason; a table has no lines.
aside_at <- function(x, census, never) {
  role <- facts(x)
  unused <- census$read - census$usable
  if (unused > 1e6) {
    abort_backfill(
      "when",
      "{thousands(unused)} of {count_of(census$read, 'row')} cannot be used.",
      ">" = "Give a SELECT that leaves out those without a date."
    )
  }
  found <- unreadable_at(x, unused)
  found <- rbind(found, data.frame(
    text = "", n = never, reason = sprintf(
      "no such time in zone %s: daylight saving skips it", role$zone
    )
  ))
  each <- rep(seq_len(nrow(found)), found$n)
  new_rejected(
    source = rep(source_label(x), length(each)),
    line = rep(NA_integer_, length(each)),
    column = rep(role$when, length(each)), text = found$text[each],
    reason = found$reason[each]
  )
}

# How many times the clock of the zone never showed.
count_never <- function(x, census, zone) {
  condition <- never_at(x, zone)
  if (is.null(condition)) {
    return(0)
  }
  rows <- only_where(
    placed_in_time(x, usable_at(x, NULL), zone), condition
  )
  census$usable - ask_grouped(
    facts(x)$at$engine, rows, NULL, c(n = "COUNT(*)")
  )$n
}

kept_note <- function(x, kept, of) {
  if (!is.null(kept_at(x))) {
    sprintf("%s of %s are kept.", thousands(kept), count_of(of, "row"))
  }
}

# The texts that are no times, each with its count.
unreadable_at <- function(x, unused) {
  at <- facts(x)$at
  none <- data.frame(text = character(), n = numeric(), reason = character())
  if (unused == 0) {
    return(none)
  }
  when <- at$engine$name(facts(x)$when)
  steps <- new_steps(
    c(written = at$engine$key_text(when), empty = sprintf(
      "CASE WHEN %s IS NULL THEN 1 ELSE 0 END", when
    ), fine = sprintf("CASE WHEN %s THEN 1 ELSE 0 END", at$moments$usable)),
    at$from, there = at$there
  )
  found <- ask_grouped(
    at$engine, only_where(steps, "fine = 0"), c("written", "empty"),
    c(n = "COUNT(*)")
  )
  found <- found[order(found$written, method = "radix"), ]
  data.frame(
    text = ifelse(found$empty == 1, "", as.character(found$written)),
    n = found$n,
    reason = ifelse(
      found$empty == 1 | !nzchar(found$written), "no date is given",
      "not a date, or not written as most of them are"
    )
  )
}

# Rows with the series and time of another: those with its figures, those with
# others.
repeats_at <- function(x) {
  measures <- names(plain_measures(facts(x)$measures))
  figures <- vapply(measures, figure_at, "", x = x)
  names(figures) <- sprintf("v%d", seq_along(figures))
  rows <- usable_at(x, facts(x)$columns, figures)
  counted <- function(by) {
    each <- grouped(rows, by, c(c = "COUNT(*)"))
    ask_grouped(facts(x)$at$engine, each, NULL, c(n = "SUM(c - 1)"))$n
  }
  keys <- c(key_names(facts(x)$columns), "e")
  all <- counted(keys)
  same <- counted(c(keys, names(figures)))
  c(same, all - same)
}

#' @export
source_days_off.backfill_records_at <- function(x, names, frame) {
  open <- open_sql("d", frame$calendar)
  if (is.null(open)) {
    return(stats::setNames(rep(0, length(names)), names))
  }
  vapply(names, function(name) {
    rows <- timed_at(x, frame, figure_at(x, name), NULL)
    off <- only_where(rows, sprintf("NOT (%s)", open))
    ask_grouped(facts(x)$at$engine, off, NULL, c(n = "COUNT(v)"))$n
  }, 0)
}
