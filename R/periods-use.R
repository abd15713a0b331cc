# Which statistic each measure is rolled up by.

# What the kind of a measure decides. "parts" are those of a ratio, "compound"
# is the growth over all returns.
use_of_kind <- c(
  flow = "sum", counter = "sum", level = "mean", ratio = "parts",
  return = "compound", "log return" = "sum"
)

# The measures that the table will have, by their names: each with `from`, the
# measure it is made of, and `use`. Several statistics of one measure become
# measures of their own, such as price_first and price_last.
plan_measures <- function(measures, use) {
  use <- named_by_measure(use, names(measures), "use")
  planned <- lapply(names(measures), function(name) {
    asked <- use[[name]]
    if (is.null(asked)) {
      own <- measures[[name]]
      own$from <- name
      own$use <- own$use %||% use_of_kind[[own$kind]]
      return(stats::setNames(list(own), name))
    }
    check_use(asked, name, measures[[name]])
    out <- lapply(asked, function(one) {
      own <- measures[[name]]
      own$from <- name
      own$use <- one
      own$unit <- find_statistic(one)$unit %||% own$unit
      own
    })
    stats::setNames(out, if (length(asked) == 1) {
      name
    } else {
      paste(name, sub("%", "", asked, fixed = TRUE), sep = "_")
    })
  })
  planned <- do.call(c, planned)
  twice <- names(planned)[duplicated(names(planned))]
  if (length(twice) > 0) {
    abort_backfill(
      "argument",
      "`use` makes a measure {quoted(twice[[1]])}, and there is one of that",
      "name.",
      ">" = "Rename one of the two when you read the records."
    )
  }
  planned
}

# An argument that says something of each measure: one value for all, or named
# ones.
named_by_measure <- function(x, names, argument, noun = "text") {
  if (is.null(x)) {
    return(NULL)
  }
  if (!rlang::is_named(x)) {
    fits <- c(text = rlang::is_string(x), number = is_number(x))[[noun]]
    if (!fits) {
      abort_backfill(
        "argument", "`{argument}` is {value_in_words(x)}.",
        i = "It must be one {noun}, or {noun}s named by measures, such as",
        "c({names[[1]]} = ...)."
      )
    }
    return(stats::setNames(rep(list(x), length(names)), names))
  }
  unknown <- setdiff(names(x), names)
  if (length(unknown) > 0) {
    abort_backfill(
      "column",
      "`{argument}` names {in_words(quoted(unknown))}, which is not a measure.",
      i = "The measures are {in_words(quoted(names))}."
    )
  }
  as.list(x)
}

check_use <- function(use, name, measure) {
  offered <- statistics_of("records")
  known <- is.character(use) & (use %in% offered | !is.na(quantile_share(use)))
  if (length(use) == 0 || !all(known) || anyDuplicated(use)) {
    abort_backfill(
      "argument", "`use` of {name} is {in_words(quoted(as.character(use)))}.",
      i = "{word_meant(use, offered)}",
      i = "It must be {in_words(quoted(offered), last = ' or ')}, or a",
      "quantile such as \"90%\"."
    )
  }
  if (any(vapply(use, function(one) {
    !is.null(wrong_of_kind(one, measure$kind))
  }, NA))) {
    said <- sprintf(better_of_kind[[measure$kind]], name)
    warn_backfill("use", "{said}")
  }
}

better_of_kind <- c(
  level = paste(
    "%s is a level: its readings added up mean nothing. Use \"mean\",",
    "\"last\" or another of its readings."
  ),
  ratio = paste(
    "%s is a ratio: the sum or mean of its readings weighs them wrongly. Leave",
    "`use` out, and it is made of its parts."
  ),
  return = paste(
    "%s is a simple return: returns are compounded, not added. Leave `use`",
    "out, or declare a \"log return\"."
  )
)

absent_choices <- c(flow = "zero", counter = "spread")

# What absence means, by the measures of the records.
check_absent <- function(absent, planned) {
  kinds <- vapply(planned, `[[`, "", "kind")
  names(kinds) <- vapply(planned, `[[`, "", "from")
  kinds <- kinds[!duplicated(names(kinds))]
  for_all <- !is.null(absent) && !rlang::is_named(absent)
  absent <- named_by_measure(absent, names(kinds), "absent")
  fits <- vapply(
    names(absent),
    function(name) {
      identical(
        absent[[name]], unname(absent_choices[kinds[name]])
      )
    },
    NA
  )
  if (for_all && any(fits)) {
    return(absent[fits])
  }
  if (!all(fits)) {
    name <- names(absent)[!fits][[1]]
    abort_backfill(
      "argument",
      "`absent` of {name}, a {kinds[[name]]}, is",
      "{value_in_words(absent[[name]])}.",
      i = "It can be \"zero\" for a flow, where silence means zero, and",
      "\"spread\" for a counter; a level has neither."
    )
  }
  absent
}

# Where no row is counted, there is none; where the rows begin and end says no
# more than for other records.
counts_are_zero <- function(absent, planned) {
  counted <- vapply(planned, function(one) isTRUE(one$counted), NA)
  from <- unique(unname(vapply(planned[counted], `[[`, "", "from")))
  from <- setdiff(from, names(absent))
  stats::setNames(rep(list("zero"), length(from)), from)
}

# How each counter is read, by the measures of the records.
check_counting <- function(falls, rollover, absent, planned, x) {
  counters <- Filter(function(one) one$kind == "counter", planned)
  names <- unique(unname(vapply(counters, `[[`, "", "from")))
  refuse_counting(
    names, c("falls", "rollover")[c(!is.null(falls), !is.null(rollover))], x
  )
  falls <- check_falls(falls, names)
  rollover <- named_by_measure(rollover, names, "rollover", "number")
  lapply(rollover, check_rollover)
  lapply(stats::setNames(names, names), function(name) {
    new_counting(
      name, identical(absent[[name]], "spread"), falls[[name]] %||% "unknown",
      rollover[[name]] %||% Inf
    )
  })
}

# One of the ways to take a fall, or "restart" and another for the falls that
# are not to less than half.
check_falls <- function(falls, names) {
  for_all <- is.character(falls) && !rlang::is_named(falls)
  falls <- if (for_all) {
    stats::setNames(rep(list(falls), length(names)), names)
  } else {
    named_by_measure(falls, names, "falls")
  }
  ways <- c("unknown", "count", "spread", "restart")
  for (one in Filter(function(one) length(one) != 1, falls)) {
    if (length(one) != 2 || sum(one == "restart") != 1 || !all(one %in% ways)) {
      abort_backfill(
        "argument", "`falls` is {in_words(quoted(one))}.",
        i = "Two of them are \"restart\", for falls to less than half, and",
        "\"count\" or \"spread\" for the others."
      )
    }
  }
  lapply(
    Filter(function(one) length(one) == 1, falls), check_one_of, ways, "falls"
  )
  falls
}

refuse_counting <- function(counters, given, x) {
  if (length(given) == 0) {
    return()
  }
  if (is_periods(x)) {
    abort_backfill(
      "argument",
      "`{given[[1]]}` is given, but the periods have what counters rose by",
      "already.",
      ">" = "Give it where the records are rolled up."
    )
  }
  if (length(counters) == 0) {
    abort_backfill(
      "argument", "`{given[[1]]}` is given, but no measure is a counter."
    )
  }
}

check_rollover <- function(x) {
  if (!is_number(x) || x <= 0) {
    abort_backfill(
      "argument", "`rollover` is {value_in_words(x)}.",
      i = "It must be a number above 0, such as 100000 for five digits."
    )
  }
}

# What becomes of levels' sub-series.
check_pool <- function(pool, planned) {
  names <- unique(unname(vapply(planned, `[[`, "", "from")))
  pool <- named_by_measure(pool, names, "pool")
  unknown <- setdiff(unlist(pool), c("sum", "mean", names))
  if (length(unknown) > 0) {
    abort_backfill(
      "argument", "`pool` is {in_words(quoted(unknown))}.",
      i = "It must be \"mean\", \"sum\" or a measure that weighs:",
      "{in_words(quoted(names))}."
    )
  }
  pool
}
