# Which periods are cut: those that the records of a series do not reach over to
# their start or end. What a cut period lacks is missing in one piece, so that
# no share of what is there makes it whole. What is missing inside of others
# makes them thin; they are complete from `enough` on.

# From which coverage a thin period counts: a sum lacks as much as is missing, a
# mean hardly moves.
enough_of <- function(enough, measure) {
  enough %||% if (measure$kind == "level") 0.75 else 0.9
}

# The cells that are cut, by their places among all, series by series. `from`
# and `to` are the instants of the first and the last record of each series,
# `own` which of the table's it is in, `expected` the slots of each cell, as in
# roll_frame(). A month of days may lack one of them: one slot that is less than
# a twentieth of it cuts nothing.
cut_cells <- function(
  bounds, calendar, cadences, from, to, expected, own = seq_along(from)
) {
  count <- length(bounds$instant) - 1
  place <- function(instant) {
    pmin(pmax(findInterval(instant, bounds$instant), 1), count)
  }
  slots <- function(from, to) slots_between(from, to, cadences, calendar$table)
  moment <- 1e-3
  first <- place(from)
  last <- place(to)
  # The slot that the first record fills starts before it, or with it.
  before <- slots(bounds$instant[first], from + moment) - 1
  after <- slots(to + moment, bounds$instant[last + 1])
  cell <- (own - 1) * count + c(first, last)
  lacking <- c(before, after)
  of <- expected[(cell - 1) %% length(expected) + 1]
  unique(cell[which(lacking > 1 | lacking == 1 & of < 20)])
}

# How many slots of their cadences start from one moment on and before another,
# of several series; NA where there is no cadence.
slots_between <- function(from, to, cadences, table) {
  out <- rep(NA_real_, length(from))
  alike <- vctrs::vec_group_loc(cadences)
  for (i in seq_len(nrow(alike))) {
    at <- alike$loc[[i]]
    ends <- as.vector(rbind(from[at], to[at]))
    slots <- expected_slots_cpp(
      instant_to_local(ends, table), ends, alike$key[i, ]
    )
    out[at] <- slots[seq(1, nrow(slots), 2), 1]
  }
  out
}

# The standings of cells, of which those that are cut are not whole, unless
# nothing was expected in what they lack.
with_cut <- function(standing, coverage, cut) {
  short <- cut[which(coverage[cut] < 1 & standing[cut] %in% c(1L, 4L))]
  standing[short] <- 2L
  standing
}
