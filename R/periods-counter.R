# Counters: what their readings rose by, and what a fall or a missing reading makes of that.

# list(parts, cells, marks, falls): the cells of what the readings rose by, and marks for judge_cells(). With `spread` a
# rise over slots without a reading is spread over these.
counter_cells <- function(reading, frame, spread, use) {
  order <- if (all(frame$surveys$in_order)) integer() else
    order(frame$series, as.numeric(frame$when), method = "radix")
  table <- frame$calendar$table
  found <- find_rises_cpp(frame$when, frame$scale, table$from, table$offset, frame$series, reading, order,
                          frame$cadences, spread)
  parts <- one_part(frame$when, frame$series, found$rise)
  cells <- roll_cells(parts, frame, use)
  marks <- list(partial = logical(length(cells$records)), imputed = 0)
  if (spread && nrow(found$shares) > 0) {
    extra <- frame
    extra$cadences <- irregular_where(frame$cadences, TRUE)
    extra$scale <- 1
    more <- roll_cells(one_part(found$shares$instant, frame$series[found$shares$row], found$shares$amount), extra)
    cells <- add_cells(cells, more)
    marks$imputed <- more$records
  } else if (!spread && nrow(found$spans) > 0) {
    # Over the end of a period, the closing one holds more than its own.
    cell <- function(rows) cell_of(rows, frame)
    over <- cell(found$spans$before) != cell(found$spans$after)
    marks$partial[cell(found$spans$after)[over]] <- TRUE
  }
  list(parts = parts, cells = cells, marks = marks, falls = found$falls)
}

# The cell that each of these records falls into.
cell_of <- function(rows, frame) {
  number <- period_number(frame$when[rows], frame$calendar)
  (frame$series[rows] - 1) * frame$columns$count + number - frame$columns$first + 1
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
  when <- frame$when
  from <- reading[falls$before]
  to <- reading[falls$after]
  tibble::tibble(
    vctrs::vec_slice(names, frame$series[falls$after]), measure = rep(name, nrow(falls)),
    after = when[falls$before], before = when[falls$after], from = from, to = to,
    what = ifelse(to < from / 2, "reset", "correction")
  )
}
