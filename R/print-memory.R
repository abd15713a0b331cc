# What autocorrelations, links between two series and cycles say.

describe_memory <- function(x, most = 8) {
  season <- attr(x, "season")
  memory <- summary(x)
  head <- sprintf("Autocorrelation of %s at lags 1 to %s; the band holds %g%% of what chance gives%s.",
                  if (season$of == "value") in_words(unique(memory$measure)) else season$of,
                  count_of_periods(season$most, season$calendar), 100 * season$level,
                  if (season$band == "large lag") " behind the last lag that matters" else "")
  if (nrow(memory) > most) {
    counts <- table(memory$verdict)
    return(c(head, sprintf("Of %s %s.", count_of(nrow(memory), "series", "series"),
                           in_words(sprintf("%d have %s", counts, sub("^too", "come out too", names(counts)))))))
  }
  strongest <- gsub(", ([0-9]+)$", " and \\1", memory$strongest)
  said <- sprintf(
    "%s: %s. %d of %d lags lie outside, where %.1f would by chance (%s); Ljung-Box over %s %s (%s)%s.",
    lines_of_result(memory), memory$verdict, memory$outside, memory$lags, memory$expected,
    p_in_words(memory$outside_p), vapply(memory$ljung_box_lags, count_of, "", noun = "lag"),
    sprintf("%.1f", memory$ljung_box), p_in_words(memory$ljung_box_p),
    ifelse(nzchar(strongest), paste("; strongest at", strongest), "")
  )
  short <- is.na(memory$ljung_box_p)
  said[short] <- sprintf("%s: too short to tell.", lines_of_result(memory)[short])
  c(head, said)
}

describe_cross <- function(x) {
  season <- attr(x, "season")
  head <- sprintf("Correlation of %s with %s at later periods (at negative lags, earlier ones), of %s.", season$first,
                  season$second, if (season$made == "values") "their values" else "their changes from period to period")
  outside <- which(x$outside)
  if (length(outside) == 0) {
    return(c(head, "No lag lies outside the band: neither leads the other, as far as these tell."))
  }
  best <- outside[which.max(abs(x$coefficient[outside]))]
  lag <- x$lag[[best]]
  c(head, sprintf(
    "%s at %s (%.2f); %s in all outside the band.",
    if (lag == 0) sprintf("%s and %s move together most", season$first, season$second) else
      sprintf("%s leads %s most", if (lag > 0) season$first else season$second,
              if (lag > 0) season$second else season$first),
    if (lag == 0) "the same period" else count_of_periods(abs(lag), season$calendar), x$coefficient[[best]],
    count_of(length(outside), "lag")
  ))
}

describe_cycles <- function(x) {
  season <- attr(x, "season")
  sprintf("%s comes back after %s: %s of the variance of its changes lies between the positions (%s).",
          lines_of_result(x), vapply(x$cycle, count_of_periods, "", calendar = season$calendar), format_share(x$share),
          p_in_words(x$p))
}
