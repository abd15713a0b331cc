# What autocorrelations, links between two series and cycles say.

#' @export
describe.backfill_autocorrelation <- function(x, ..., most = 8) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  about <- facts(x)
  memory <- summary(x)
  head <- sprintf(
    paste(
      "Autocorrelation of %s at lags 1 to %s; the band holds %g%% of what",
      "chance gives%s."
    ),
    if (about$of == "value") in_words(unique(memory$measure)) else about$of,
    count_of_periods(about$most, about$calendar), 100 * about$confidence,
    if (about$limits == "large lag") {
      " after the last lag that matters"
    } else {
      ""
    }
  )
  if (nrow(memory) > most) {
    return(c(
      head,
      counted_verdicts(memory$verdict, structures_of_many),
      chance_of_many(
        memory$p, startsWith(memory$verdict, "structure"),
        lines_of_result(memory)
      ), cycle_beside(memory, about)
    ))
  }
  c(
    head,
    vapply(
      seq_len(nrow(memory)),
      function(i) describe_structure(memory[i, ], about), ""
    ), cycle_beside(memory, about)
  )
}

structures_of_many <- c(
  "no structure" = "have no structure",
  "structure, seasonal" = "have structure that is seasonal",
  "structure, not seasonal" = "have structure that is not seasonal",
  "too short to tell" = "are too short to tell", constant = "are constant"
)

# What is found of one series.
describe_structure <- function(memory, about) {
  name <- lines_of_result(memory)
  if (memory$verdict == "constant") {
    return(sprintf(
      "%s is constant: one value throughout has no autocorrelation.", name
    ))
  }
  if (memory$verdict == "too short to tell") {
    return(glue(
      "{name}: too short to tell, with {count_of(memory$periods, 'value')} and",
      "{count_of(memory$lags, 'lag')} of {least_pairs} pairs or more."
    ))
  }
  strongest <- gsub(", ([0-9]+)$", " and \\1", memory$strongest)
  said <- sprintf(
    "%s: %s (%s). %d of %s outside the band, where %.1f would by chance (%s)%s.",
    name, memory$verdict, p_in_words(memory$p), memory$outside, count_of(
      memory$lags, "lag lies", "lags lie"
    ),
    memory$expected, p_in_words(memory$outside_p),
    if (nzchar(strongest)) paste("; strongest at", strongest) else ""
  )
  if (isTRUE(memory$hidden)) {
    said <- paste(said, sprintf(
      paste(
        "The trend hides the season: around the average over %s the",
        "coefficient at that lag is %.2f."
      ),
      about$cycle$words, memory$around_trend
    ))
  }
  said
}

# A wave of one period more or less comes apart from the cycle only after so
# many of them that it is half a wave behind.
cycle_beside <- function(memory, about) {
  seasonal <- memory$periods[memory$verdict == "structure, seasonal"]
  cycle <- about$cycle$length
  if (any(seasonal < cycle * (cycle + 1) / 2)) glue(
    "From {count_of_periods(min(seasonal), about$calendar)} a cycle of {cycle}",
    "cannot be told from one of {cycle - 1L} or {cycle + 1L}."
  )
}

#' @export
describe.backfill_cross_correlation <- function(x, ...) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  about <- facts(x)
  head <- sprintf(
    paste(
      "Correlation of %s with %s at later periods (at negative lags,",
      "earlier ones), of %s."
    ),
    about$first, about$second,
    if (about$on == "values") {
      "their values"
    } else {
      "their changes from period to period"
    }
  )
  outside <- which(x$outside)
  if (length(outside) == 0) {
    return(c(
      head,
      "No lag lies outside the band: no lead of one over the other was found."
    ))
  }
  largest <- about$largest
  so_far_out <- sprintf(
    "by chance the largest of %s would lie as far out with %s",
    count_of(largest$lags, "lag"), p_in_words(largest$p)
  )
  many <- paste(
    count_of(length(outside), "lag"),
    if (length(outside) == 1) "lies" else "lie", "outside the band"
  )
  c(
    head,
    if (isTRUE(about$seasons)) {
      glue(
        "No lead is judged, as both have a season, which makes lags stand out",
        "by itself: {lag_in_words(about)}, and {many}. Correlate what",
        "add_remainder() leaves."
      )
    } else if (largest$p < 0.05) {
      sprintf("%s; %s. %s.", lag_in_words(about), so_far_out, many)
    } else {
      sprintf("No lead was found: %s, but %s.", many, so_far_out)
    }
  )
}

# "Lantern leads Hearth most at 2 months (0.41)"
lag_in_words <- function(about) {
  lag <- about$largest$lag
  two <- c(about$first, about$second)
  if (lag < 0) two <- rev(two)
  sprintf(
    "%s %s most at %s (%.2f)", two[[1]],
    if (lag == 0) {
      sprintf("and %s move together", two[[2]])
    } else {
      paste("leads", two[[2]])
    },
    if (lag == 0) {
      "the same period"
    } else {
      count_of_periods(abs(lag), about$calendar)
    },
    about$largest$coefficient
  )
}

#' @export
describe.backfill_cycles <- function(x, ..., most = 8) {
  if (nrow(x) == 0) {
    return("No cycle stands out.")
  }
  about <- facts(x)
  if (nrow(x) > most) {
    counts <- sort(table(x$cycle), decreasing = TRUE)
    lengths <- vapply(
      as.integer(names(counts)), count_of_periods, "", calendar = about$calendar
    )
    return(sprintf(
      "Cycles stand out in %s: %s.",
      count_of(length(unique(lines_of_result(x))), "series", "series"),
      in_words(sprintf("%s in %s", lengths, thousands(as.vector(counts))), 6)
    ))
  }
  sprintf(
    "%s: a cycle of %s; %s of the variance of its %s lies %s (%s).",
    lines_of_result(x),
    vapply(x$cycle, count_of_periods, "", calendar = about$calendar),
    format_share(x$explained), x$seen_in, ifelse(
      x$seen_in == "changes", "between the positions", "in that wave"
    ),
    p_in_words(x$p)
  )
}

#' @export
describe.backfill_memory <- function(x, ...) {
  if (nrow(x) == 0) NextMethod() else "What the past says:"
}

#' @export
columns_left.backfill_autocorrelation <- function(x) c("products", "lower")

#' @export
columns_left.backfill_cross_correlation <- function(x) "lower"

#' @export
columns_left.backfill_memory <- function(x) {
  c("periods", "ljung_box", "around_trend")
}
