# The steps of a trace: a figure, and behind it those that it was made of.

# A list of steps: list(row, column, depth, figure, formula, worked), the one
# asked for first and behind it those that it was made of.
traced <- function(x, row, column, depth, leaf = FALSE) {
  # What is projected was not made by the verb of its column.
  note <- if (!is_projected(x, row, column)) facts(x)$added[[column]]
  figure <- as.double(x[[column]][[row]])
  step <- list(
    row = row, column = column, depth = depth, figure = figure,
    formula = if (is.null(note)) {
      value_formula(x, row)
    } else {
      note_in_words(note)
    },
    worked = NA_character_
  )
  if (is.null(note)) {
    return(value_steps(x, row, step))
  }
  if (leaf) {
    return(list(step))
  }
  way <- trace_ways()[[note$verb]]
  kept <- !is.null(note$made) || note$verb %in% without_arguments
  if (is.null(way) || !kept) {
    abort_backfill(
      "trace", "How \"{column}\" was made is not kept with the table."
    )
  }
  along <- along_counted(x, note$of)
  working <- way(x, along, match(row, along$order), note, column)
  step$worked <- if (is.na(figure)) NA_character_ else
    as.character(working$text)
  if (!is.null(working$beside)) {
    step$formula <- sprintf("%s (%s)", step$formula, working$beside)
  }
  check_worked(step)
  c(list(step), traced_parts(
    x, along$order[working$rows], working$column, depth + 1L, column
  ))
}

# Verbs that have no arguments to keep in their notes, or have them by name.
without_arguments <- c("returns", "bands", "running anomaly", "interval")

# The figures of rows that went into one in `column`; those of the same column
# are not gone into again, and of long sums each is traced by itself.
traced_parts <- function(x, rows, of, depth, column = "") {
  of <- rep_len(of, max(length(rows), 1))
  long <- length(rows) > 100
  parts <- lapply(seq_along(rows), function(k) {
    traced(x, rows[[k]], of[[k]], depth, leaf = of[[k]] == column || long)
  })
  unlist(parts, recursive = FALSE)
}

# Worked out anew, a step gives the figure that stands in the table, but for the
# rounding of the largest of the figures put in.
check_worked <- function(step) {
  if (is.na(step$figure) || is.na(step$worked)) {
    return()
  }
  anew <- worked_out(step$worked)
  figures <- regmatches(
    step$worked, gregexpr("[0-9][0-9.]*(e[-+]?[0-9]+)?", step$worked)
  )[[1]]
  slack <- 1e-9 * abs(step$figure) + 1e-12 * max(0, as.numeric(figures))
  if (is.na(anew) || abs(anew - step$figure) > slack) {
    abort_backfill(
      "trace",
      "\"{step$column}\" is {put_in(step$figure)}, but what the table has now",
      "gives {put_in(anew)}.",
      i = "It was worked out as {substr(step$worked, 1, 200)}.",
      ">" = "Trace it before rows are taken out or figures changed, or",
      "calculate the column again."
    )
  }
}

worked_out <- function(text) {
  known <- list(
    sd = stats::sd, pnorm = stats::pnorm, pt = stats::pt,
    quantile = function(x, share, type = 7) {
      stats::quantile(x, share, names = FALSE, type = type)
    }
  )
  as.double(eval(str2lang(text), known, baseenv()))
}

is_projected <- function(x, row, column) {
  identical(facts(x)$projected$of, column) && x$standing[[row]] == "projected"
}

# A value, and of a ratio the two that it is made of, where the table has them.
value_steps <- function(x, row, step) {
  if (is_projected(x, row, step$column)) {
    return(projected_step(x, row, step))
  }
  measure <- facts(x)$measures[[as.character(x$measure[[row]])]]
  share <- share_scaled(x)[[row]]
  if (!is.na(share)) {
    step$worked <- paste(
      put_in(c(step$figure * share, share)), collapse = " / "
    )
  }
  if (measure$use != "parts" || is.na(step$figure)) {
    return(list(step))
  }
  at <- c(facts(x)$series, "period")
  beside <- which(vctrs::vec_in(
    plain_tibble(x)[at], vctrs::vec_slice(plain_tibble(x)[at], row)
  ))
  parts <- beside[match(c(measure$of, measure$per), x$measure[beside])]
  gives <- x$value[parts[1]] / x$value[parts[2]]
  if (anyNA(parts) || !isTRUE(all.equal(gives, step$figure))) {
    return(list(step))
  }
  step$worked <- paste(put_in(x$value[parts]), collapse = " / ")
  c(list(step), lapply(parts, function(part) {
    traced(x, part, "value", step$depth + 1L)[[1]]
  }))
}

# What became of the records of a value.
value_formula <- function(x, row) {
  measure <- facts(x)$measures[[as.character(x$measure[[row]])]]
  standing <- as.character(x$standing[[row]])
  if (!is.null(facts(x)$basket)) {
    return("the members of the basket by their weights")
  }
  scaled <- !is.na(share_scaled(x)[row])
  if (standing == "imputed" && !scaled && length(facts(x)$imputed) > 0) {
    methods <- vapply(facts(x)$imputed, `[[`, "", "method")
    return(sprintf("filled in (%s)", in_words(methods)))
  }
  if (standing == "empty") {
    return("no record")
  }
  paste0(
    words_of_use(measure, "made"), if (scaled) {
      ", scaled to the full length of the period"
    }
  )
}
