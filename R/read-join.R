# Several files or sheets as one table, below each other.

# Files with the same columns, in any order, as one table.
below_each_other <- function(raws) {
  for (raw in raws[-1]) check_same_header(raws[[1]], raw)
  columns <- raws[[1]]$header[[length(raws[[1]]$header)]]
  rows <- vapply(raws, `[[`, 0L, "rows")
  ends <- cumsum(rows)
  data <- lapply(seq_along(columns), function(i) {
    # Below two rows of headers names repeat, and stand in the same order in all
    # files.
    place <- if (length(raws[[1]]$header) > 1) i else names(raws[[1]]$data)[[i]]
    parts <- lapply(raws, function(raw) raw$data[[place]])
    if (length(unique(lapply(parts, class))) == 1) {
      vctrs::vec_c(!!!parts)
    } else {
      stack_columns(parts)
    }
  })
  names(data) <- names(raws[[1]]$data)
  out <- raws[[1]]
  out$data <- data
  out$rows <- as.integer(sum(rows))
  out$files <- list(
    of = rep(seq_along(raws), rows),
    name = basename(vapply(raws, function(raw) raw$sources$source[[1]], ""))
  )
  out$at <- function(rows) place_in_sources(rows, raws, ends)
  out$as_text <- if (!is.null(raws[[1]]$as_text)) function(columns) {
    each <- lapply(raws, function(raw) raw$as_text(columns))
    lapply(
      seq_along(columns),
      function(i) unlist(lapply(each, `[[`, i), use.names = FALSE)
    )
  }
  out$rejected <- vctrs::vec_rbind(!!!lapply(raws, `[[`, "rejected"))
  out$sources <- vctrs::vec_rbind(!!!lapply(raws, `[[`, "sources"))
  out$blank <- sum(vapply(raws, `[[`, 0, "blank"))
  out$notes <- unique(unlist(lapply(raws, `[[`, "notes")))
  out$kept <- unique(unlist(lapply(raws, `[[`, "kept"), recursive = FALSE))
  out$serial <- raws[[1]]$serial
  out
}

# Below two rows of headers, where names repeat, they must stand in one order.
check_same_header <- function(first, other) {
  rows <- length(first$header)
  columns <- first$header[[rows]]
  others <- other$header[[length(other$header)]]
  same <- length(other$header) == rows && if (rows > 1) {
    identical(other$header, first$header)
  } else {
    setequal(columns, others)
  }
  if (same) {
    return()
  }
  odd <- c(setdiff(others, columns), setdiff(columns, others))
  abort_backfill(
    "column",
    "{basename(first$sources$source)} and {basename(other$sources$source)}",
    "have different columns: {in_words(quoted(odd))}",
    "{if (length(odd) == 1) 'is' else 'are'} in one of them only.",
    ">" = "Files that are read together must have the same columns; read",
    "others apart."
  )
}

# In which source each of the rows lies, and on which line. `ends` are the last
# rows of the sources.
place_in_sources <- function(rows, raws, ends) {
  which <- findInterval(rows - 1L, ends) + 1L
  source <- character(length(rows))
  line <- integer(length(rows))
  for (k in unique(which)) {
    there <- raws[[k]]$at(rows[which == k] - c(0L, ends)[[k]])
    source[which == k] <- there$source
    line[which == k] <- there$line
  }
  list(source = source, line = line)
}
