# Counters: what their readings rose by, and what a fall or a missing reading
# makes of that.

# list(cells, quantiles, marks, falls): the cells of what the readings in
# `parts` (see src/parts.h) rose by, and marks for judge_cells(). With `spread`
# a rise over slots without a reading is spread over these. `keep(i, rise)` puts
# away what the i-th part rose by, and gives the function that fetches it.
counter_cells <- function(parts, frame, spread, use, keep = NULL) {
  found <- if (length(parts) == 1) list(rises_of(
    fetched(parts[[1]]), frame, spread
  )) else
    rises_in_turn(parts, frame, spread, keep)
  shares <- vctrs::vec_rbind(!!!lapply(found, `[[`, "shares"))
  spans <- vctrs::vec_rbind(!!!lapply(found, `[[`, "spans"))
  parts <- lapply(found, `[[`, "part")
  cells <- roll_cells(parts, frame, use)
  marks <- list(partial = logical(length(cells$records)), imputed = 0)
  if (spread && nrow(shares) > 0) {
    extra <- frame
    extra$cadences <- irregular_where(frame$cadences, TRUE)
    extra$scale <- 1
    more <- roll_cells(
      one_part(shares$instant, shares$series, shares$amount), extra
    )
    cells <- add_cells(cells, more)
    marks$imputed <- more$records
  } else if (!spread && nrow(spans) > 0) {
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

fetched <- function(part) if (is.function(part)) part() else part

# list(part, shares, spans, falls) of one part: the part with what its readings
# rose by as its values, and pairs of readings that follow each other, by series
# (counted from 1) and times.
rises_of <- function(part, frame, spread) {
  ordered <- length(frame$surveys$in_order) > 0 && all(frame$surveys$in_order)
  order <- if (ordered) {
    integer()
  } else {
    order(part$series, as.numeric(part$when), method = "radix")
  }
  table <- frame$calendar$table
  found <- find_rises_cpp(
    part$when, frame$scale, table$from, table$offset, part$series, part$value,
    order, frame$cadences, spread
  )
  pairs <- function(rows) {
    tibble::tibble(
      series = part$series[rows$after], after = part$when[rows$before],
      before = part$when[rows$after], from = part$value[rows$before],
      to = part$value[rows$after]
    )
  }
  spans <- found$spans
  list(
    part = list(when = part$when, series = part$series, value = found$rise),
    falls = pairs(found$falls),
    spans = tibble::tibble(
      series = part$series[spans$after], before = part$when[spans$before],
      after = part$when[spans$after]
    ),
    shares = tibble::tibble(
      series = part$series[found$shares$row], instant = found$shares$instant,
      amount = found$shares$amount
    )
  )
}

# The same of each of several parts. The latest reading of each series before a
# part stands at its head, as its first ones rise from there.
rises_in_turn <- function(parts, frame, spread, keep) {
  late <- which(!frame$surveys$in_order)
  if (length(late) > 0) {
    name <- vapply(vctrs::vec_slice(frame$names, late[[1]]), as.character, "")
    abort_backfill(
      "argument", sprintf(
        paste(
          "A counter is read in chunks, but its readings%s are not in order",
          "of time."
        ),
        if (length(name) > 0) {
          sprintf(" of %s", paste(name, collapse = " / "))
        } else {
          ""
        }
      ),
      ">" = "Sort the file by time, or read it without `chunked`.", call = NULL
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
    found <- rises_of(joined, frame, spread)
    known <- which(!is.na(joined$value))
    last <- known[!duplicated(joined$series[known], fromLast = TRUE)]
    before <<- lapply(joined, `[`, last)
    found$part <- keep(i, found$part$value[seq_along(part$series) + head])
    found
  })
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
# `after` and `before` which it fell, and the readings `from` and `to`. A fall
# to less than half is a reset, any other a correction.
counter_falls <- function(falls, name, names) {
  tibble::tibble(
    vctrs::vec_slice(names, falls$series), measure = rep(name, nrow(falls)),
    falls[c("after", "before", "from", "to")],
    what = as.character(ifelse(
      falls$to < falls$from / 2, "reset", "correction"
    ))
  )
}
