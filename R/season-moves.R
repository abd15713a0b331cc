# An index that moves: one for each period.

index_by_period <- function(x, along, position, index) {
  new_rows(
    keys_at(x, along, seq_along(index)), position = position,
    start = as.numeric(column_along(x$period, along)), index = index
  )[!is.na(index), ]
}

# Of the indices that hold at each `place` from a `start` on, the number of that
# of each `own` place at `when`; before all of its place the first.
latest_by_then <- function(own, when, place, start) {
  starts <- sort(unique(start))
  key <- function(place, rank) place * (length(starts) + 1) + rank
  order <- order(place, start, method = "radix")
  at <- findInterval(
    key(own, findInterval(when, starts)),
    key(place, match(start, starts))[order]
  )
  before <- at == 0 | place[order][pmax(at, 1)] != own
  found <- order[at + before]
  ifelse(place[found] == own, found, NA)
}
