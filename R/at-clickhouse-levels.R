# Queries for ClickHouse, which has them within each other where others have
# names.

# Columns and conditions go into the SELECT that groups by them, as the servers
# behind a Distributed table do what that says of the table itself, and send no
# rows.
in_few_levels <- function(steps) {
  level <- NULL
  for (step in unclass(steps)) {
    level <- switch(
      step$of,
      table = level_of_table(step, steps),
      columns = replace(level, "columns", list(
        c(level$columns, step$columns)
      )),
      where = replace(level, "where", list(c(level$where, step$where))),
      groups = new_level(sprintf("(%s)", grouped_level(level, step))),
      text = new_level(sprintf(
        "(%s)", sub("@", open_level(level), step$text, fixed = TRUE)
      ))
    )
  }
  sub("^\\((.*)\\)$", "\\1", level$from)
}

new_level <- function(from, columns = NULL, where = NULL, rest = TRUE) {
  list(from = from, columns = columns, where = where, rest = rest)
}

# A name that the table has too would be taken for that of the table, or the
# other way round: it is given a level above.
level_of_table <- function(step, steps) {
  own <- unlist(lapply(unclass(steps), function(one) names(one$columns)))
  if (any(own %in% step$there)) {
    names <- names(step$columns)
    names(step$columns) <- sprintf("`%s of ours`", names)
    return(new_level(sprintf(
      "(SELECT %s FROM (%s))", listed(sprintf(
        "%s AS %s", names(step$columns), names
      )), step_text(step)
    )))
  }
  new_level(step$from, step$columns, step$where, rest = FALSE)
}

grouped_level <- function(level, step) {
  aliases <- if (length(level$columns) > 0) {
    paste("WITH", listed(
      sprintf("%s AS %s", level$columns, names(level$columns))
    ))
  }
  paste(
    aliases, "SELECT", named_columns(c(
      stats::setNames(step$by, step$by), step$columns
    )), "FROM", level$from, all_of(level$where),
    if (length(step$by) > 0) paste("GROUP BY", listed(step$by))
  )
}

open_level <- function(level) {
  if (is.null(c(level$columns, level$where))) {
    return(level$from)
  }
  sprintf(
    "(SELECT %s FROM %s %s)",
    listed(c(if (level$rest) "*", named_columns(level$columns))), level$from,
    paste(all_of(level$where), collapse = "")
  )
}

# By arrays of the values of each group.
ordered_by_arrays <- list(
  in_windows = FALSE,
  before = function(steps, by, columns, kept) {
    all <- union("e", c(columns, kept))
    arrays <- grouped(steps, by, c(each = sprintf(
      "arraySort(r -> tupleElement(r, 1), groupArray(tuple(%s)))", listed(all)
    )))
    own <- sprintf("tupleElement(r, %d) AS %s", seq_along(all), all)
    before <- sprintf(
      "CASE WHEN i = 1 THEN NULL ELSE tupleElement(b, %d) END AS b%s",
      match(columns, all), columns
    )
    selected(
      arrays, paste(
        "SELECT %s FROM @ AS q ARRAY JOIN each AS r,",
        "arrayPushFront(arrayPopBack(each), arrayElement(each, 1)) AS b,",
        "arrayEnumerate(each) AS i"
      ), listed(c(by, own, before))
    )
  },
  further = function(engine, steps, by) {
    # The state of the stable variance is not read back from another server as
    # it was sent, hence that of the values.
    pairs <- grouped(steps, by, c(
      es = "groupArray(toFloat64(e))", us = "groupArray(assumeNotNull(u))"
    ))
    at_end <- function(end, which) {
      sprintf(
        paste0(
          "arrayReduce('%s', arrayFilter((x, y) -> ",
          "y = arrayReduce('%s', es), us, es))"
        ), which, end
      )
    }
    columns <- c(
      n = "length(us)",
      squares = "arrayReduce('varSampStable', us) * (length(us) - 1)",
      first_low = at_end("min", "min"), first_high = at_end("min", "max"),
      last_low = at_end("max", "min"), last_high = at_end("max", "max"),
      first_at = "arrayReduce('min', es)", last_at = "arrayReduce('max', es)"
    )
    ask_steps(engine, selected(
      pairs, "SELECT %s FROM @ AS q", listed(c(by, sprintf(
        "%s AS %s", vapply(columns, engine$real, ""), names(columns)
      )))
    ))
  },
  around = function(engine, steps, by, share) {
    values <- grouped(steps, by, c(a = "arraySort(groupArray(u))"))
    below <- sprintf(
      "toUInt32(floor((length(a) - 1) * toFloat64(%s)))", as_digits(share)
    )
    places <- with_columns(values, c(places = sprintf(
      "arrayFilter(x -> x >= 1 AND x <= length(a), [%s, %s + 1, %s + 2])",
      below, below, below
    )))
    ask_steps(engine, selected(
      places, paste(
        "SELECT %s, toFloat64(i) AS place, toFloat64(length(a)) AS n,",
        "toFloat64(arrayElement(a, i)) AS figure FROM @ AS q",
        "ARRAY JOIN places AS i"
      ), listed(by)
    ))
  }
)
