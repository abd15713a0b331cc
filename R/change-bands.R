#' Sort changes into bands
#'
#' A column that says in which named band each figure lies, such as strong
#' falls, falls, rises and strong rises; and how many periods of each series lie
#' in which.
#'
#' Bands reach from each break to the next, the first from below and the last
#' without an upper end, so that every figure has one. A figure on a break
#' belongs to the band above it, or with `closed = "right"` to the one below.
#'
#' @inheritParams add_growth
#' @param breaks Where bands meet, rising numbers: figures of the column itself;
#'   with `scale = "quantile"` shares from 0 to 1; with `scale = "sd"` standard
#'   deviations from the mean.
#' @param labels Names of the bands from the lowest to the highest, one more
#'   than `breaks`. By default their ends.
#' @param of Name of the column that is sorted; by default the one that a
#'   calculation has added.
#' @param scale What breaks are: `"value"`, `"quantile"` or `"sd"`. Quantiles,
#'   mean and standard deviation are those of all series of a measure together.
#' @param closed Which end belongs to a band: `"left"`, the lower, or `"right"`,
#'   the upper.
#' @param name Name of the new column.
#' @param band Name of a column that `add_bands()` made.
#' @return `add_bands()`: the table with one column more, an ordered factor.
#'   `count_bands()`: a tibble with a row for each series, measure and band:
#'   `periods` in it, and their `share` of those that have one.
#' @section Errors: `backfill_error_input` where `x` is not a periods table;
#'   `backfill_error_column` where `of` or `band` is missing or `name` is taken;
#'   `backfill_error_argument` for breaks that do not rise and labels that do
#'   not fit.
#' @examples
#' nights <- read_records(
#'   demo_file("inns.csv"), when = "month", series = "inn",
#'   measures = c(guest_nights = "flow")
#' )
#' monthly <- add_growth(roll_up(nights, every = "month"), over = "1 year")
#' monthly <- add_bands(
#'   monthly, c(-5, 0, 5), c("clear fall", "fall", "rise", "clear rise"),
#'   of = "growth_1_year"
#' )
#' count_bands(monthly)
#' @export
add_bands <- function(
  x, breaks, labels = NULL, scale = "value", closed = "left", of = NULL,
  name = "band"
) {
  check_given()
  x <- check_periods(x)
  check_new_name(name, x)
  check_breaks(breaks, scale)
  labels <- labels %||% band_labels(breaks, scale, closed)
  if (
    !is.character(labels) || length(labels) != length(breaks) + 1 ||
      anyDuplicated(labels) > 0
  ) {
    abort_backfill(
      "argument", "`labels` is {value_in_words(labels)}.",
      i = "It must be {count_of(length(breaks) + 1, 'name')}, unlike each",
      "other, for the bands from the lowest to the highest."
    )
  }
  of <- of %||% column_added(x)
  along <- along_series(x, of)
  measure <- x$measure[along$order]
  code <- rep(NA_integer_, length(measure))
  ends <- list()
  for (one in unique(measure)) {
    here <- which(measure == one & !is.na(along$value))
    ends[[one]] <- breaks_of(along$value[here], breaks, scale)
    code[here] <- findInterval(
      along$value[here], ends[[one]], left.open = closed == "right"
    ) + 1L
  }
  note <- new_note(
    "bands", of, "bands of {of}", breaks = ends, closed = closed,
    withheld = stats::setNames(sum(is.na(code)), paste("there is no", of))
  )
  add_column(x, name, factor(labels[code], labels, ordered = TRUE), along, note)
}

#' @rdname add_bands
#' @export
count_bands <- function(x, band = "band") {
  x <- check_periods(x)
  note <- facts(x)$added[[band]]
  if (!identical(note$verb, "bands") || !is.factor(x[[band]])) {
    abort_backfill(
      "column",
      "`band` is {value_in_words(band)}, which is not a column of bands.",
      ">" = "Make one with add_bands()."
    )
  }
  lines <- keys_of(x)
  each <- vctrs::vec_unique(lines)
  bands <- levels(x[[band]])
  line <- vctrs::vec_match(lines, each)
  periods <- as.vector(table(
    factor(x[[band]], bands), factor(line, seq_len(nrow(each)))
  ))
  out <- vctrs::vec_rep_each(each, length(bands))
  out$band <- factor(rep(bands, nrow(each)), bands, ordered = TRUE)
  out$periods <- as.integer(periods)
  total <- rep(
    tapply(periods, rep(seq_len(nrow(each)), each = length(bands)), sum),
    each = length(bands)
  )
  out$share <- as.vector(ifelse(total > 0, periods / total, NA_real_))
  kept <- facts(x)[c("calendar", "series", "measures", "sources")]
  new_result(out, "band_counts", c(
    kept, list(of = note$of, note = note_of(x, note$of))
  ))
}

# The column that was added, where there is one.
column_added <- function(x) {
  added <- names(facts(x)$added)
  if (length(added) != 1) {
    abort_backfill(
      "argument",
      if (length(added) == 0) {
        "`of` is not given, and no column was added to the table."
      } else {
        paste(
          "`of` is not given, and several columns were added:",
          "{in_words(quoted(added))}."
        )
      },
      ">" = "Name the column whose figures are sorted."
    )
  }
  added
}

check_breaks <- function(breaks, scale) {
  if (!are_numbers(breaks) || is.unsorted(breaks, strictly = TRUE)) {
    said <- if (are_numbers(breaks)) {
      in_words(breaks)
    } else {
      value_in_words(breaks)
    }
    abort_backfill(
      "argument",
      "`breaks` is {said}; it must be numbers that rise, such as c(-5, 0, 5)."
    )
  }
  if (scale == "quantile" && (min(breaks) < 0 || max(breaks) > 1)) {
    abort_backfill(
      "argument",
      "`breaks` is {in_words(breaks)}; quantiles are shares from 0 to 1."
    )
  }
}

breaks_of <- function(value, breaks, scale) {
  if (scale == "value" || length(value) < 2) {
    return(breaks)
  }
  if (scale == "quantile") {
    quantiles_of(value, breaks)
  } else {
    mean(value) + breaks * spread_of(value)
  }
}

# Between the two nearest in proportion (Hyndman and Fan 1996, definition 7).
quantiles_of <- function(value, share) {
  sorted <- sort(value)
  place <- share * (length(sorted) - 1) + 1
  low <- floor(place)
  sorted[low] + (place - low) * (
    sorted[pmin(low + 1, length(sorted))] - sorted[low]
  )
}

# The standard deviation of a sample.
spread_of <- function(value) {
  sqrt(
    sum((value - mean(value))^2) / (length(value) - 1)
  )
}

# "below -5", "-5 to below 0", "5 and above"; closed on the right "up to -5",
# "above -5 to 0", "above 5".
band_labels <- function(breaks, scale, closed) {
  end <- switch(
    scale, value = plain_format(breaks, trim = TRUE),
    quantile = paste0("quantile ", 100 * breaks, "%"),
    sd = paste(plain_format(breaks, trim = TRUE), "sd")
  )
  last <- length(end)
  if (closed == "left") {
    c(
      paste("below", end[[1]]), sprintf("%s to below %s", end[-last], end[-1]),
      paste(end[[last]], "and above")
    )
  } else {
    c(
      paste("up to", end[[1]]), sprintf("above %s to %s", end[-last], end[-1]),
      paste("above", end[[last]])
    )
  }
}
