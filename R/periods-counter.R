# Counters: what their readings rose by, and what a fall or a missing reading makes of that.

# list(value, marks, cells, falls): the cells of what the readings rose by, and marks for judge_cells(). With `spread` a
# rise over slots without a reading is spread over these.
counter_cells <- function(reading, frame, spread, use) {
  times <- frame$times
  order <- if (all(frame$surveys$in_order)) integer() else
    order(times$series, as.numeric(times$when), method = "radix")
  table <- frame$calendar$table
  found <- find_rises_cpp(times$when, times$scale, table$from, table$offset, times$series, reading, order,
                          frame$cadences, spread)
  cells <- roll_cells(found$rise, frame, use)
  marks <- list(partial = logical(length(cells$records)), imputed = 0)
  if (spread && nrow(found$shares) > 0) {
    extra <- frame
    extra$cadences <- irregular_where(frame$cadences, TRUE)
    shares <- list(
      when = .POSIXct(found$shares$instant, tz = frame$calendar$zone), scale = 1,
      series = times$series[found$shares$row]
    )
    more <- roll_cells(found$shares$amount, extra, times = shares)
    cells <- add_cells(cells, more)
    marks$imputed <- more$records
  } else if (!spread && nrow(found$spans) > 0) {
    # Over the end of a period, the closing one holds more than its own.
    cell <- function(rows) cell_of(rows, frame)
    over <- cell(found$spans$before) != cell(found$spans$after)
    marks$partial[cell(found$spans$after)[over]] <- TRUE
  }
  list(value = found$rise, cells = cells, marks = marks, falls = found$falls)
}

# The cell that each of these records falls into.
cell_of <- function(rows, frame) {
  number <- period_number(frame$times$when[rows], frame$calendar)
  (frame$times$series[rows] - 1) * frame$columns$count + number - frame$columns$first + 1
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

# The falls of a counter as a table: series columns, `measure`, the times `after` and `before` which it fell, and the
# readings `from` and `to`. A fall to less than half is a reset, any other a correction.
counter_falls <- function(falls, name, reading, frame, names) {
  when <- frame$times$when
  from <- reading[falls$before]
  to <- reading[falls$after]
  tibble::tibble(
    vctrs::vec_slice(names, frame$times$series[falls$after]), measure = rep(name, nrow(falls)),
    after = when[falls$before], before = when[falls$after], from = from, to = to,
    what = ifelse(to < from / 2, "reset", "correction")
  )
}
