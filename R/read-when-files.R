# Dates of several files, of which each may be written in an order of its own.

# The texts of all files in one order. Where the files agree on one they are as
# they were; where they do not, those that are written in another are turned
# round, and a note says so.
in_one_order <- function(text, rules, at) {
  files <- rules$files
  if (is.null(files) || !is.null(rules$date_order)) {
    return(text)
  }
  rows <- split(seq_along(text), files$of)
  found <- lapply(rows, function(rows) {
    date_column_cpp(
      text[rows], rules$pivot_year, rules$year_start %||% 1L, 0L, FALSE, FALSE
    )
  })
  best <- lapply(found, function(one) {
    which(one$fits == max(one$fits) & one$fits > 0)
  })
  told <- lengths(best) > 0
  doubtful <- lengths(lapply(found, function(one) one$doubts$row)) > 0 &
    lengths(best) > 1
  sure <- best[told & !doubtful]
  if (length(sure) == 0 || length(Reduce(intersect, sure)) > 0) {
    return(text)
  }
  if (any(doubtful)) {
    first <- which(doubtful)[[1]]
    find_order(found[[first]], function(row) at(rows[[first]][row]))
  }
  count <- tabulate(unlist(sure), length(date_orders))
  target <- which.max(count)
  own <- vapply(best, function(one) {
    if (length(one) == 0 || target %in% one) target else one[[1]]
  }, 0L)
  for (k in which(own != target)) {
    text[rows[[k]]] <- turned_round(text[rows[[k]]], own[[k]], target)
  }
  structure(text, note = sprintf(
    "Dates are written in an order of its own in each file: %s.", in_words(
      sprintf("%s has %s", files$name, unname(date_orders[own])), 8
    )
  ))
}

# The three figures that a date starts with, put into another order.
turned_round <- function(text, from, to) {
  places <- list(ymd = 1:3, dmy = c(3, 2, 1), mdy = c(3, 1, 2))
  from <- places[[names(date_orders)[[from]]]]
  to <- places[[names(date_orders)[[to]]]]
  if (is.null(from) || is.null(to)) {
    return(text)
  }
  # Year, month and day by their places, and where each goes.
  slots <- c(1L, 3L, 5L)
  new <- integer(3)
  new[to] <- slots[from] + 1L
  sub(
    "^(\\s*)([0-9]+)([-./ ])([0-9]+)([-./ ])([0-9]+)(?![0-9])",
    sprintf("\\1\\%d\\3\\%d\\5\\%d", new[[1]], new[[2]], new[[3]]),
    text, perl = TRUE
  )
}
