# Which periods are cut: those that the records of a series do not reach over to
# their start or end. What a cut period lacks is missing in one piece, so that
# no share of what is there makes it whole. What is missing inside of others
# makes them thin; they are complete from `enough` on.

# From which coverage a thin period counts: a sum lacks as much as is missing, a
# mean hardly moves, and what a counter rose by where it fell is not known.
enough_of <- function(enough, measure) {
  enough %||% switch(measure$kind, level = 0.75, counter = 1, 0.9)
}

# What is known of the ends of series: the instants `from` and `to` of the first
# and the last record of each, and how many slots it may have to `spare` there.
# One that records nearly always has one. One that leaves out more begins as
# late as it may leave out slots by chance, in 95 of 100 cases.
ends_of_series <- function(surveys, cadences, table) {
  slots <- slots_between(
    surveys$lowest, surveys$highest + 1e-3, cadences, table
  )
  left_out <- pmax(1 - surveys$records / slots, 0)
  left_out[is.na(left_out)] <- 0
  list(
    from = surveys$lowest, to = surveys$highest,
    spare = pmax(floor(log(0.05) / log(left_out)), 1)
  )
}

# The cells that are cut, by their places among all, series by series: those
# whose series `ends` within them. `own` says which of the table's it is in,
# `expected` are the slots of each cell, as in roll_frame(). Where one slot is
# spare, it is so where it is less than a twentieth of the period.
cut_cells <- function(
  bounds, calendar, cadences, ends, expected, own = seq_along(ends$from)
) {
  from <- ends$from
  to <- ends$to
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
  unique(cell[which(
    lacking > ends$spare | ends$spare == 1 & lacking == 1 & of < 20
  )])
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

# What a lower `enough` would count: `reached` of how many values that are
# `partial` though records lie before and after them, at the highest `share` of
# a few that more than half of them reach, and whether `sums` are among them
# that `thin` would scale. NULL where no more than `least` values are, by
# default one in ten, or none would be counted.
less_would_do <- function(
  x, partial = which(x$standing == "partial"), least = nrow(x) / 10
) {
  role <- facts(x)
  partial <- setdiff(partial, ends_of_lines(x))
  now <- max(vapply(role$measures, enough_of, 0, enough = role$enough))
  shares <- c(0.9, 0.75)
  shares <- shares[shares < now]
  reached <- vapply(shares, function(share) {
    sum(x$coverage[partial] >= share, na.rm = TRUE)
  }, 0L)
  if (length(partial) <= least || max(0, reached) == 0) {
    return(NULL)
  }
  best <- c(which(reached > length(partial) / 2), which.max(reached))[[1]]
  list(
    partial = length(partial), reached = reached[[best]],
    share = shares[[best]], sums = !identical(role$thin, "scale") && any(
      vapply(role$measures, function(one) identical(one$use, "sum"), NA)
    )
  )
}

# The first and the last row of each line that has any records.
ends_of_lines <- function(x) {
  there <- which(x$standing != "empty")
  line <- vctrs::vec_group_id(vctrs::vec_slice(keys_of(x), there))
  there[!duplicated(line) | !duplicated(line, fromLast = TRUE)]
}

less_in_words <- function(less) {
  if (!is.null(less)) sprintf(
    "%s a coverage of %g%% or more; `enough` at %g would count %s%s.",
    if (less$partial == 1) {
      "The value that is partial for lack of records has"
    } else {
      sprintf(
        "%s values that are partial for lack of records %s",
        if (less$reached == less$partial) {
          paste("All", thousands(less$partial))
        } else {
          paste(thousands(less$reached), "of the", thousands(less$partial))
        },
        if (less$reached == 1) "has" else "have"
      )
    },
    100 * less$share, less$share, if (less$reached == 1) "it" else "them",
    if (less$sums) {
      ", and `thin` at \"scale\" make up for what sums lack"
    } else {
      ""
    }
  )
}
