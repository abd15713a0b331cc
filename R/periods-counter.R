# Counters: what their readings rose by, and what a fall or a missing reading
# makes of that.

# How a counter is read. `spread`: a rise over slots without a reading is spread
# over these. `falls`: what a fall is taken as, a new start from 0 and something
# else where a fall to less than half is one and any other is not. `rollover`:
# the reading at which it starts from 0 again.
new_counting <- function(name, spread = FALSE, falls = "unknown",
                         rollover = Inf) {
  other <- setdiff(falls, "restart")
  list(
    name = name, spread = spread,
    falls = if (length(falls) == 2) other else falls,
    resets = if (length(falls) == 2) "restart" else falls, rollover = rollover
  )
}

# As the kernel counts them (src/kernels/counter.h).
falls_taken <- c("unknown", "count", "spread", "restart", "rollover")

# list(cells, quantiles, marks, falls): the cells of what the readings in
# `parts` (see src/parts.h) rose by, and marks for judge_cells().
# `keep(i, rise)` puts away what the i-th part rose by, and gives the function
# that fetches it.
counter_cells <- function(parts, frame, how, use, keep = NULL) {
  found <- if (length(parts) == 1) {
    list(rises_of(fetched(parts[[1]]), frame, how))
  } else {
    rises_in_turn(parts, frame, how, keep)
  }
  shares <- vctrs::vec_rbind(!!!lapply(found, `[[`, "shares"))
  spans <- vctrs::vec_rbind(!!!lapply(found, `[[`, "spans"))
  parts <- lapply(found, `[[`, "part")
  cells <- roll_cells(parts, frame, use)
  marks <- list(partial = logical(length(cells$records)), imputed = 0)
  if (how$spread && nrow(shares) > 0) {
    more <- share_cells(shares, frame)
    cells <- add_cells(cells, more)
    marks$imputed <- more$records
  } else if (!how$spread && nrow(spans) > 0) {
    # Over the end of a period, the closing one holds more than its own.
    closing <- cell_of(spans$series, spans$after, frame)
    over <- cell_of(spans$series, spans$before, frame) != closing
    marks$partial[closing[over]] <- TRUE
  }
  list(
    cells = cells, quantiles = quantiles_of_parts(parts), marks = marks,
    falls = vctrs::vec_rbind(!!!lapply(found, `[[`, "falls"))
  )
}

# The cells of amounts at instants, which fill no slots.
share_cells <- function(shares, frame) {
  frame$cadences <- irregular_where(frame$cadences, TRUE)
  frame$scale <- 1
  roll_cells(one_part(shares$instant, shares$series, shares$amount), frame)
}

fetched <- function(part) if (is.function(part)) part() else part

# list(part, shares, spans, falls) of one part: the part with what its readings
# rose by as its values, and pairs of readings that follow each other, by series
# (counted from 1) and times.
rises_of <- function(part, frame, how) {
  check_within_range(range_of(part$value), how)
  ordered <- length(frame$surveys$in_order) > 0 && all(frame$surveys$in_order)
  order <- if (ordered) {
    integer()
  } else {
    order(part$series, as.numeric(part$when), method = "radix")
  }
  found <- rises_found(part, frame, how, order)
  pairs <- function(rows) {
    new_rows(
      series = part$series[rows$after], after = part$when[rows$before],
      before = part$when[rows$after], from = part$value[rows$before],
      to = part$value[rows$after]
    )
  }
  spans <- found$spans
  list(
    part = list(when = part$when, series = part$series, value = found$rise),
    falls = new_rows(
      pairs(found$falls), taken = falls_taken[found$taken + 1]
    ),
    spans = new_rows(
      series = part$series[spans$after], before = part$when[spans$before],
      after = part$when[spans$after]
    ),
    shares = new_rows(
      series = part$series[found$shares$row], instant = found$shares$instant,
      amount = found$shares$amount
    )
  )
}

# As the kernel finds them, see find_rises_cpp().
rises_found <- function(part, frame, how, order, cadences = frame$cadences) {
  table <- frame$calendar$table
  find_rises_cpp(
    part$when, frame$scale, table$from, table$offset, part$series, part$value,
    order, cadences, how$spread, match(how$falls, falls_taken) - 1L,
    match(how$resets, falls_taken) - 1L, how$rollover
  )
}

# The same of each of several parts. The latest reading of each series before a
# part stands at its head, as its first ones rise from there.
rises_in_turn <- function(parts, frame, how, keep) {
  check_chunked_falls(how)
  late <- which(!frame$surveys$in_order)
  if (length(late) > 0) {
    name <- vapply(vctrs::vec_slice(frame$names, late[[1]]), as.character, "")
    of <- if (length(name) > 0) paste(" of", paste(name, collapse = " / "))
    abort_backfill(
      "argument",
      "A counter is read in chunks, but its readings{of} are not in order of",
      "time.",
      ">" = "Sort the file by time, or read it without `chunked`."
    )
  }
  before <- list(when = NULL, series = integer(), value = numeric())
  lapply(seq_along(parts), function(i) {
    part <- fetched(parts[[i]])
    head <- length(before$series)
    joined <- list(
      when = vctrs::vec_c(before$when, part$when),
      series = c(before$series, part$series),
      value = c(before$value, part$value)
    )
    found <- rises_of(joined, frame, how)
    known <- which(!is.na(joined$value))
    last <- known[!duplicated(joined$series[known], fromLast = TRUE)]
    before <<- lapply(joined, `[`, last)
    found$part <- keep(i, found$part$value[seq_along(part$series) + head])
    found
  })
}

check_chunked_falls <- function(how) {
  if (how$falls == "spread") {
    abort_backfill(
      "argument",
      "`falls` of {how$name} is \"spread\", but its readings are read in",
      "chunks, and what was counted before a fall is gone by then.",
      ">" = "Read them without `chunked`, or count the falls when they are",
      "made."
    )
  }
}

# The lowest and highest of them, NA where there is none.
range_of <- function(values) {
  if (all(is.na(values))) c(NA, NA) else range(values, na.rm = TRUE)
}

# A counter that starts from 0 at `rollover` never shows that, nor less than 0.
check_within_range <- function(ends, how) {
  if (is.infinite(how$rollover)) {
    return()
  }
  beyond <- ends[which(ends < 0 | ends >= how$rollover)]
  if (length(beyond) > 0) {
    abort_backfill(
      "argument",
      "A reading of {how$name} is {thousands(beyond[[1]])}, but `rollover`",
      "says that it goes from 0 to below {thousands(how$rollover)}.",
      ">" = "Give the reading at which it starts from 0 again, such as 100000",
      "for five digits."
    )
  }
}

# The cell of each of these records.
cell_of <- function(series, when, frame) {
  (series - 1) * frame$columns$count + period_number(
    when, frame$calendar
  ) - frame$columns$first + 1
}

# Sums of both; records and slots are those of the first.
add_cells <- function(cells, more) {
  cells$sum <- cells$sum + more$sum
  cells$known <- cells$records + more$records
  if (!is.null(cells$merged)) {
    cells$merged <- add_cells(cells$merged, more$merged)
  }
  cells
}

# The falls of a counter as a table: series columns, `measure`, the times
# `after` and `before` which it fell, the readings `from` and `to`, and what it
# was `taken` as. A fall to less than half is a reset, any other a correction.
counter_falls <- function(falls, name, names) {
  what <- ifelse(falls$to < falls$from / 2, "reset", "correction")
  what[falls$taken == "rollover"] <- "rollover"
  new_rows(
    vctrs::vec_slice(names, falls$series), measure = rep(name, nrow(falls)),
    falls[c("after", "before", "from", "to")], what = as.character(what),
    taken = as.character(falls$taken)
  )
}
