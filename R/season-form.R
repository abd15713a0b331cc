# By ratios or by differences: which form of a season the figures bear out.

season_forms <- c("multiplicative", "additive")

# list(form, said): the form that is asked for, or with "auto" the one that
# leaves less unexplained, and the reasons in words; ratios that nobody `asked`
# for are kept, and the series named that differences fit better. What `find`
# gives, which is what season_cpp() does in a form, comes along as `tried` where
# both were; `position` is that of each row.
form_of_season <- function(form, asked, find, along, position, names) {
  if (form != "auto" && asked) {
    return(list(form = form))
  }
  low <- which(along$value <= 0)
  if (length(low) > 0) {
    return(form_of_low(form, names[first_rows(along)$line[low]]))
  }
  tried <- sapply(season_forms, find, simplify = FALSE)
  gain <- gain_by_ratios(
    tried$multiplicative, tried$additive, along$value,
    first_rows(along)$line, position
  )
  # Of a series without a season the trend alone would tell the forms apart.
  seasonal <- have_season(tried$multiplicative) | have_season(tried$additive)
  if (any(seasonal)) gain[!seasonal] <- 0
  ratios <- form != "auto" || sum(gain) > -clearly
  list(
    form = season_forms[[if (ratios) 1 else 2]], tried = tried,
    said = if (form == "auto") {
      fit_in_words(gain, ratios, names)
    } else if (any(seasonal)) {
      misfit_in_words(gain, names)
    }
  )
}

form_of_low <- function(form, line) {
  if (form != "auto") {
    return(list(form = form))
  }
  list(form = "additive", said = sprintf(
    "Differences were used because ratios need values above zero (%s).",
    in_words(unique(line), 4)
  ))
}

have_season <- function(found) {
  p <- season_p_of(season_facts(found$facts))
  !is.na(p) & p < 0.05
}

misfit_in_words <- function(gain, names) {
  suited <- names[gain < -clearly]
  if (length(suited) == 0) {
    return(NULL)
  }
  sprintf(
    "Differences fit %sbetter than ratios: %s \"additive\".",
    if (length(names) == 1) "" else paste0(
      if (all(names %in% suited)) "all series" else in_words(suited, 4), " "
    ),
    if (sum(gain) < -clearly) {
      "make the index with `form` as"
    } else {
      sprintf(
        "make %s index apart, with `form` as",
        if (length(suited) == 1) "its" else "their"
      )
    }
  )
}

# Ratios compare from series to series and are the first choice: what
# differences leave must be 3 times as likely.
clearly <- log(3)

# By how much the logarithm of the likelihood of each series is larger where its
# logarithms, not its values, lie off the season by errors of Laplace's law,
# whose scale is the mean absolute deviation: one outlier does not decide.
# Box, G. E. P. and Cox, D. R. (1964). An analysis of transformations. Journal
# of the Royal Statistical Society B 26, 211-252.
gain_by_ratios <- function(ratios, differences, value, line, position) {
  index <- function(found, form) raw_index(found$of_row, found$scale, form)
  # What rounding leaves is nothing.
  beyond <- function(off, least) ifelse(off > least, off, 0)
  by_ratio <- beyond(
    abs(log(ratios$part / index(ratios, "multiplicative"))), 1e-12
  )
  by_difference <- beyond(
    abs(differences$part - index(differences, "additive")), 1e-12 * value
  )
  # One figure at a position is its index.
  several <- function(found) found$count[cbind(position, line)] > 1
  known <- which(
    !is.na(by_ratio) & !is.na(by_difference) & several(ratios) &
      several(differences)
  )
  off <- cbind(n = 1, by_ratio, by_difference, log = log(value))
  sums <- rowsum(off[known, , drop = FALSE], line[known])
  gain <- sums[, "n"] * log(sums[, "by_difference"] / sums[, "by_ratio"]) -
    sums[, "log"]
  # Of a series without any error neither form is the better one.
  gain[is.nan(gain)] <- 0
  out <- rep(0, max(line))
  out[as.integer(rownames(sums))] <- pmin(pmax(gain, -1e6), 1e6)
  out
}

fit_in_words <- function(gain, ratios, names) {
  if (all(gain == 0)) {
    return(
      "Ratios were used; it cannot be told whether differences fit better."
    )
  }
  if (ratios && sum(gain) < 0) {
    return("Ratios were used; differences would fit hardly any better.")
  }
  other <- if (ratios) "differences" else "ratios"
  suited <- names[if (ratios) gain < -clearly else gain > clearly]
  said <- sprintf(
    "%s were used because they fit better than %s",
    if (ratios) "Ratios" else "Differences", other
  )
  if (length(suited) == 0) {
    return(paste0(said, "."))
  }
  sprintf(
    "%s over %s series; %s fit %s better.", said,
    if (length(names) == 2) "both" else paste("all", length(names)), other,
    in_words(suited, 4)
  )
}
