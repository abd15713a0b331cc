# What a table of periods, or series, side by side says.

#' @export
describe.backfill_wide <- function(x, ...) {
  about <- facts(x)
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  noun <- period_noun(about$calendar, 2)
  figures <- if (about$of == "value") "values" else about$of
  c(
    sprintf(
      "%s with %s side by side.", sentence_case(gsub("_", " ", figures)),
      if (about$side == "periods") noun else "series"
    ),
    if (!about$partial) {
      sprintf("Those of %s that are not whole are left out.", noun)
    }
  )
}

# Where not all is asked for, the latest periods, or the first series, that have
# room beside each other.
#' @export
table_cells.backfill_wide <- function(x, n = Inf) {
  cells <- NextMethod()
  if (is.infinite(n)) {
    return(cells)
  }
  latest <- facts(x)$side == "periods"
  keys <- seq_along(if (latest) c(facts(x)$keys, "measure") else "period")
  others <- setdiff(seq_along(cells$text), keys)
  kept <- room_for(cells, keys, if (latest) rev(others) else others)
  left <- length(others) - length(kept)
  if (left == 0) {
    return(cells)
  }
  shown <- c(keys, sort(kept))
  new_cells(cells$text[shown], cells$right[shown], beside = if (latest) {
    glue("{thousands(left)} earlier {period_noun(facts(x)$calendar, left)}")
  } else {
    count_of(left, "more column")
  })
}

# Which of the columns `others`, in their order, have room beside `keys`; one
# at least.
room_for <- function(cells, keys, others) {
  width <- vapply(seq_along(cells$text), function(i) {
    text <- c(names(cells$text)[[i]], cells$text[[i]])
    max(nchar(text, "width"), na.rm = TRUE)
  }, 0)
  room <- cli::console_width() - sum(width[keys] + 2)
  others[seq_len(max(1, sum(cumsum(width[others] + 2) <= room + 2)))]
}
